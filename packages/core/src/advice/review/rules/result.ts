import { eachTool, type ReviewRule } from '../remark.js';

export const noResult: ReviewRule = {
  code: 'no_result',
  about: 'A flow that is a tool has no result, so that the model that calls it learns nothing.',
  look: eachTool(({ name, hasResult }) => [
    hasResult === false && {
      weight: 'hurts' as const,
      argument: null,
      title: `${name} returns nothing`,
      why: 'The flow has no "result" and no answer step: a model cannot tell what came of the call.',
      instead: 'Add a result to the flow, such as the row that was written or a sentence that says what was done.',
      fix: null,
    },
  ]),
};

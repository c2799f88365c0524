import { eachTool, type ReviewRule } from '../suggestion.js';

export const noResult: ReviewRule = {
  code: 'no_result',
  about: 'A flow that is a tool returns no result, so a calling model learns nothing.',
  look: eachTool(({ name, hasResult }) => [
    hasResult === false && {
      weight: 'hurts' as const,
      argument: null,
      title: `${name} returns nothing`,
      why: 'The flow has no "result" and no answer step, so a model cannot tell how the call ended.',
      instead: 'Add a result to the flow, such as the new row or a sentence that describes the outcome.',
      fix: null,
    },
  ]),
};

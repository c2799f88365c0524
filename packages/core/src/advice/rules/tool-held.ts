import { type DiagnosisRule, detail } from '../finding.js';

export const toolHeld: DiagnosisRule = {
  code: 'tool_held',
  about: 'A tool was called that is held back, because its server changed it and nobody has accepted that.',
  matches: ({ error }) => error.code === 'tool_held',
  explain: (failure) => {
    const server = detail(failure, 'server') ?? '';
    return {
      title: failure.error.message,
      why: `Tool server "${server}" says something else of the tool now than what was accepted.`,
      fix: failure.error.hint,
      place: { server },
    };
  },
};

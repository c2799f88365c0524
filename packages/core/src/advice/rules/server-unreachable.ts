import { type DiagnosisRule, detail } from '../finding.js';

export const serverUnreachable: DiagnosisRule = {
  code: 'server_unreachable',
  about: 'A tool server or web address did not answer, or went away during a call.',
  matches: ({ error }) =>
    ['server_unreachable', 'server_lost', 'server_not_mcp', 'server_busy', 'address_unreachable'].includes(error.code),
  explain: (failure) => {
    const server = detail(failure, 'server');
    const lost = failure.error.code === 'server_lost';
    return {
      title: server
        ? `Tool server "${server}" ${lost ? 'went away during the call' : 'could not be reached'}`
        : failure.error.message,
      why: failure.error.message,
      fix: lost
        ? `Find out whether the call took effect, then run it again. ${failure.error.hint}`
        : failure.error.hint,
      place: server ? { server } : { flow: failure.flow, at: failure.error.at ?? '' },
    };
  },
};

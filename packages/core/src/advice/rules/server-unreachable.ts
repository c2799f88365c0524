import { type DiagnosisRule, detail } from '../finding.js';

const CODES: readonly string[] = [
  ...['server_unreachable', 'server_lost', 'server_not_mcp', 'server_busy', 'server_left_alone', 'address_unreachable'],
  ...['program_not_started', 'program_ended', 'program_babbles', 'program_forbidden', 'program_not_allowed'],
];

export const serverUnreachable: DiagnosisRule = {
  code: 'server_unreachable',
  about: 'A tool server or web address did not answer, or went away during a call.',
  matches: ({ error }) => CODES.includes(error.code),
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

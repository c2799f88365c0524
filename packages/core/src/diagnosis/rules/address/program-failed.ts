import { detail, failureRule } from '../../rule.js';

/** Codes of errors of a server's program that concern all of its tools. */
export const PROGRAM_CODES = [
  'program_not_started',
  'program_ended',
  'program_babbles',
  'program_forbidden',
  'program_not_allowed',
  'program_changed',
] as const;

export const programFailed = failureRule({
  code: 'program_failed',
  about: 'The program of a tool server did not start, exited, or wrote something other than protocol messages.',
  todo: 'Read its last output. Fix the command, its requirements, or its output.',
  codes: PROGRAM_CODES,
  explain: (failure) => {
    const server = detail(failure, 'server');
    return {
      title: failure.error.message,
      why: 'The tool server is available only while its program runs.',
      fix: failure.error.hint,
      place: server ? { server } : null,
      quotes: [detail(failure, 'words')],
    };
  },
});

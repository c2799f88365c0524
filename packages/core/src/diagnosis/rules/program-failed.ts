import { detail, failureRule } from '../rule.js';

/** Codes of errors of the program behind a tool server, whichever of its tools is called. */
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
  about: 'The program behind a tool server did not start, ended, or wrote what is not of the protocol.',
  todo: 'Read its last words; mend the command, what it needs, or what it writes.',
  codes: PROGRAM_CODES,
  explain: (failure) => {
    const server = detail(failure, 'server');
    return {
      title: failure.error.message,
      why: 'A tool server that is a program lives as long as the program does.',
      fix: failure.error.hint,
      place: server ? { server } : null,
      quotes: [detail(failure, 'words')],
    };
  },
});

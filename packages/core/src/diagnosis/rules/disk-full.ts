import { failureRule } from '../rule.js';

export const storage = failureRule({
  code: 'disk_full',
  about: 'The record could not be written: the disk is full, or refuses.',
  todo: 'Make room; what waits is written by itself then.',
  codes: ['storage_failed', 'data_directory'],
  explain: (failure) => ({
    title: failure.error.message,
    why: 'Nothing is told as done that is not on disk.',
    fix: failure.error.hint,
    place: null,
    about: [failure.error.code],
  }),
});

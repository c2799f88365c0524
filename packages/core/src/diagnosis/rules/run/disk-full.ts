import { failureRule } from '../../rule.js';

export const storage = failureRule({
  code: 'disk_full',
  about: 'The record could not be written: the disk is full or read-only.',
  todo: 'Free up space. Pending data is then written automatically.',
  codes: ['storage_failed', 'data_directory'],
  explain: (failure) => ({
    title: failure.error.message,
    why: 'Nothing is reported as done before it is on disk.',
    fix: failure.error.hint,
    place: null,
    about: [failure.error.code],
  }),
});

import type { Entries } from './entry.js';

/** The service itself. */
export const service = {
  data_directory: { message: 'The data directory {path} cannot be used: {why}', hint: '{fix}', http: 500 },
  backup_unusable: {
    message: 'Backup "{id}" cannot be used: {why}',
    hint: 'Choose another one; "pindro backup --list" lists them. Nothing was changed.',
    http: 422,
  },
  port_taken: {
    message: 'Port {port} on {host} is in use by another program',
    hint: 'Stop that program, or choose another port with --port; 0 chooses a free one.',
    http: 500,
  },
  storage_failed: {
    message: 'The record could not be written: {why}',
    hint: 'Check the free space and permissions of the data directory.',
    http: 503,
    caller: 'Retry later.',
  },
  record_unreadable: {
    message: 'The record of run {run} cannot be read: {why}',
    hint: 'A newer version wrote it, or the file is damaged. Restore a backup of the data directory.',
    http: 500,
  },
  secret_unsealable: {
    message: 'Credential "{name}" cannot be decrypted with the present key',
    hint: 'Restore the old key file, or replace the secret of the credential.',
    http: 500,
  },
  internal: {
    message: 'Pindro has an internal error',
    hint: 'See the log of the service, reference {reference}.',
    http: 500,
    rpc: -32603,
    caller: 'Your input is not the cause.',
  },
} as const satisfies Entries;

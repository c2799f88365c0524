import type { Entries } from './entry.js';

/** The service itself. */
export const service = {
  data_directory: { message: 'The data directory {path} cannot be used: {why}', hint: '{fix}', http: 500 },
  backup_unusable: {
    message: 'Backup "{id}" cannot be used: {why}',
    hint: 'Take another one; "pindro backup --list" shows them. Nothing was changed.',
    http: 422,
  },
  port_taken: {
    message: 'Port {port} on {host} is taken by another program',
    hint: 'Stop that one, or take another port with --port; 0 takes a free one.',
    http: 500,
  },
  storage_failed: {
    message: 'The record could not be written: {why}',
    hint: 'Check the free space and permissions of the data directory.',
    http: 503,
    caller: 'Call it again later.',
  },
  record_unreadable: {
    message: 'The record of run {run} cannot be read: {why}',
    hint: 'It was written by a newer version, or the file is damaged: look at a backup of the data directory.',
    http: 500,
  },
  secret_unsealable: {
    message: 'Credential "{name}" cannot be unsealed with the present key',
    hint: 'Put the old key file back, or give the credential a new secret.',
    http: 500,
  },
  internal: {
    message: 'Something went wrong inside Pindro',
    hint: 'The log of the service says more, under reference {reference}.',
    http: 500,
    rpc: -32603,
    caller: 'It is not about what was sent.',
  },
} as const satisfies Entries;

import type { Entries } from './entry.js';

/** Flows as they are written and called. */
export const flows = {
  publish_breaks: {
    message: 'Publishing "{flow}" would break what uses it',
    hint: 'Look at each, then publish it all the same with "anyway" (--anyway at the command line).',
    http: 409,
  },
  flow_invalid: { message: '{count} in flow "{name}"', hint: 'Mend each one; nothing was changed.', http: 422 },
  documents_busy: {
    message: '{waiting} long documents wait to be read already',
    hint: 'Come back in {seconds} s.',
    http: 503,
  },
  flow_too_large: {
    message: 'A flow document holds at most {limit}, and this one is longer',
    hint: 'Put data into a table, and parts of the flow into flows of their own.',
    http: 413,
  },
  endpoint_invalid: { message: '{count} in endpoint "{name}"', hint: 'Mend each one; nothing was changed.', http: 422 },
  draft_newer: {
    message: 'Somebody else has changed the draft of "{flow}" meanwhile',
    hint: 'Load it again; what you have is still on your screen and can be copied.',
    http: 409,
  },
  document_unreadable: {
    message: 'The OpenAPI document cannot be read: {why}',
    hint: 'Give an OpenAPI 3.0 or 3.1 document, as JSON or YAML.',
    http: 422,
  },
  flow_not_published: {
    message: 'Flow "{flow}" has no published revision',
    hint: 'Publish it with "pindro flow publish {flow}", or use a key whose stage is draft.',
    http: 409,
  },
  flow_broken: {
    message: 'Flow "{flow}" cannot run: {why}',
    hint: 'Open the flow and mend what its check lists.',
    http: 409,
  },
  input_refused: { message: 'The input was refused: {why}', hint: '{fix}', http: 422, caller: true },
  flow_too_deep: {
    message: 'Flows call one another more than {limit} deep: {chain}',
    hint: 'Break the circle of calls.',
    http: 409,
  },
} as const satisfies Entries;

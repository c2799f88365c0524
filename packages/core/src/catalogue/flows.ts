import type { Entries } from './entry.js';

/** Flows as they are written and called. */
export const flows = {
  publish_breaks: {
    message: 'Publishing "{flow}" would break its callers',
    hint: 'Review each of them, then publish with "force" (--force at the command line).',
    http: 409,
  },
  flow_invalid: { message: '{count} in flow "{name}"', hint: 'Fix each one; nothing was changed.', http: 422 },
  documents_busy: {
    message: '{waiting} long documents are already queued for parsing',
    hint: 'Retry in {seconds} s.',
    http: 503,
  },
  flow_too_large: {
    message: 'The flow document exceeds the limit of {limit}',
    hint: 'Move data into a table, and parts of the flow into other flows.',
    http: 413,
  },
  endpoint_invalid: { message: '{count} in endpoint "{name}"', hint: 'Fix each one; nothing was changed.', http: 422 },
  draft_newer: {
    message: 'Somebody else has changed the draft of "{flow}"',
    hint: 'Reload it. Your version is still on your screen and can be copied.',
    http: 409,
  },
  document_unreadable: {
    message: 'The OpenAPI document cannot be read: {why}',
    hint: 'Use an OpenAPI 3.0 or 3.1 document, as JSON or YAML.',
    http: 422,
  },
  flow_not_published: {
    message: 'Flow "{flow}" has no published revision',
    hint: 'Publish it with "pindro flow publish {flow}", or use a key whose stage is draft.',
    http: 409,
  },
  flow_broken: {
    message: 'Flow "{flow}" cannot run: {why}',
    hint: 'Open the flow and fix what its check lists.',
    http: 409,
  },
  input_refused: { message: 'The input is invalid: {why}', hint: '{fix}', http: 422, caller: true },
  flow_too_deep: {
    message: 'Flows call one another more than {limit} levels deep: {chain}',
    hint: 'Remove the recursion.',
    http: 409,
  },
} as const satisfies Entries;

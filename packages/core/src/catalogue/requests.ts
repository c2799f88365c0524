import type { Entries } from './entry.js';

/** What was sent. */
export const requests = {
  body_unreadable: {
    message: 'The body is not valid JSON: {why}',
    hint: 'Send one JSON document with Content-Type application/json.',
    http: 400,
    rpc: -32700,
  },
  body_too_large: {
    message: 'The body is larger than {limit}',
    hint: 'Send less at once, or raise the limit {where}.',
    http: 413,
    rpc: -32600,
  },
  too_many_parts: {
    message: '{what} has {found}; {most} is the most',
    hint: 'Send less at once.',
    http: 413,
    rpc: -32602,
  },
  request_invalid: { message: '{why}', hint: '{fix}', http: 422, rpc: -32602 },
  usage: { message: '{why}', hint: '{fix}', http: 400 },
  file_unreadable: {
    message: '{path} cannot be read: {why}',
    hint: '{fix}',
    http: 400,
  },
  not_found: { message: 'There is no {what} named "{name}"', hint: '{suggestion}', http: 404, caller: true },
  no_such_address: {
    message: 'Nothing answers at {method} {path}',
    hint: 'See /api/v1/openapi.json for what does.',
    http: 404,
  },
  method_not_allowed: {
    message: '{path} does not answer {method}',
    hint: 'Use {allow}.',
    http: 405,
  },
  response_invalid: {
    message: 'The result of flow "{flow}" describes no HTTP response: {why}',
    hint: 'Return an object with "status", "headers" and "body" (or "base64"), each of them optional.',
    http: 500,
  },
  live_steps: {
    message: 'This would do for real what makes a difference: {steps}',
    hint: 'Say so with "live" (--live) if that is meant; all else is taken from the record.',
    http: 409,
  },
  cure_stale: {
    message: 'The change was not made: {what} is not what it was when the run failed',
    hint: 'Look at it there; it may be mended already. Run it again to see.',
    http: 409,
  },
  already_there: {
    message: 'There is already a {what} named "{name}"',
    hint: 'Choose another name, or change the one that is there.',
    http: 409,
    caller: true,
  },
  in_use: { message: '{what} "{name}" is still used by {users}', hint: 'Take it out there first.', http: 409 },
  value_unsafe: {
    message: 'The value at {where} {why}',
    hint: 'Send a value that JSON carries exactly.',
    http: 422,
    rpc: -32602,
    caller: true,
  },
} as const satisfies Entries;

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
    message: 'The body exceeds the limit of {limit}',
    hint: 'Send less at once, or raise the limit {where}.',
    http: 413,
    rpc: -32600,
  },
  too_many_parts: {
    message: '{what} has {found}, and the limit is {most}',
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
    message: 'No route for {method} {path}',
    hint: 'See /api/v1/openapi.json for all routes.',
    http: 404,
  },
  method_not_allowed: {
    message: '{path} does not support {method}',
    hint: 'Use {allow}.',
    http: 405,
  },
  response_invalid: {
    message: 'The result of flow "{flow}" is not a valid HTTP response: {why}',
    hint: 'Return an object with "status", "headers" and "body" (or "base64"), each of them optional.',
    http: 500,
  },
  live_steps: {
    message: 'The retry would repeat side effects: {steps}',
    hint: 'To repeat them for real, add "live" (--live). Everything else is replayed from the recording.',
    http: 409,
  },
  cure_stale: {
    message: 'The fix was not applied: {what} has changed since the run failed',
    hint: 'Check it there; it may be fixed already. Retry the run to find out.',
    http: 409,
  },
  already_there: {
    message: 'A {what} named "{name}" already exists',
    hint: 'Choose another name, or update the existing one.',
    http: 409,
    caller: true,
  },
  in_use: { message: '{what} "{name}" is used by {users}', hint: 'Remove it there first.', http: 409 },
  value_unsafe: {
    message: 'The value at {where} {why}',
    hint: 'Send a value that JSON can represent exactly.',
    http: 422,
    rpc: -32602,
    caller: true,
  },
} as const satisfies Entries;

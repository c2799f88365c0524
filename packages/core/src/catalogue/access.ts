import type { Entries } from './entry.js';

/** Who is asking, and whether they may. */
export const access = {
  not_signed_in: {
    message: 'This needs an access key or a signed-in session',
    hint: 'Send "Authorization: Bearer KEY", or open the sign-in link that "pindro serve" printed.',
    http: 401,
  },
  key_without_bearer: {
    message: 'The Authorization header holds a key without the word Bearer',
    hint: 'Write it as "Authorization: Bearer KEY".',
    http: 401,
  },
  key_unknown: {
    message: 'The access key is not known here',
    hint: 'Issue one with "pindro key issue" and use it whole; a key is shown only once.',
    http: 401,
  },
  key_revoked: {
    message: 'The access key "{name}" was revoked on {when}',
    hint: 'Issue another with "pindro key issue".',
    http: 401,
  },
  key_expired: {
    message: 'The access key "{name}" ended on {when}',
    hint: 'Rotate it with "pindro key rotate", or issue another.',
    http: 401,
  },
  key_busy: {
    message: 'The access key "{name}" may make {limit} calls a minute, and has made them',
    hint: 'Wait {seconds} s and call again.',
    http: 429,
    caller: true,
  },
  result_too_large: {
    message: 'The result of "{tool}" has {size}, which is more than a client is sent',
    hint: 'Ask for less of it: narrower arguments, or a smaller limit.',
    http: 413,
    caller: true,
  },
  result_breaks_schema: {
    message: 'The result of "{tool}" is not what its endpoint promises: {why}',
    hint: 'Nothing is wrong with the call. The builder must mend the flow, or the result schema on the endpoint.',
    http: 502,
    caller: true,
  },
  approval_not_yours: {
    message: 'Only {caller} may decide this, and you are {name}',
    hint: 'Ask {caller} to decide, or change "by" of the approval rule to "people".',
    http: 403,
  },
  approval_own: {
    message: 'You ({name}) requested this, and its rule requires another person to approve it',
    hint: 'Ask somebody else to approve it. You can still refuse it.',
    http: 403,
  },
  not_allowed: {
    message: 'The access key "{name}" does not open {what}',
    hint: 'Issue a key with that scope, or use one that has it.',
    http: 403,
  },
  endpoint_off: {
    message: 'Endpoint "{name}" is switched off',
    hint: 'Switch it on with "pindro {command}", or on its page in the console.',
    http: 403,
  },
  name_reserved: {
    message: '"{name}" is the name of a built-in endpoint',
    hint: 'Choose another name. What is built in cannot be changed.',
    http: 409,
  },
  not_open_to_assistants: {
    message: 'There is no flow "{flow}" that is open to assistants',
    hint: '{suggestion}',
    http: 404,
  },
  role_too_low: {
    message: '{name} is {role} here, and this is for {needed} and above',
    hint: 'Ask an owner to do it, or to change the role.',
    http: 403,
  },
  password_wrong: {
    message: 'Name or password is wrong',
    hint: 'Try again, or have an owner make a sign-in link with "pindro person link NAME".',
    http: 401,
  },
  page_unknown: {
    message: 'The request does not come from a page of the console',
    hint: 'A browser sends the header Origin by itself; a program should present an access key.',
    http: 403,
  },
  last_owner: {
    message: '{name} is the only owner',
    hint: 'Make somebody else an owner first.',
    http: 409,
  },
  sign_in_link_used: {
    message: 'This sign-in link has been used or has expired',
    hint: 'Run "pindro sign-in" for a new one.',
    http: 401,
  },
  signature_refused: {
    message: 'The signature was refused: {why}',
    hint: 'Sign "ID.TIMESTAMP.BODY" with HMAC-SHA256 and send it as "webhook-signature: v1,BASE64".',
    http: 401,
  },
  message_repeated: {
    message: 'The message "{id}" has been taken already',
    hint: 'Nothing was done again. Give each message an id of its own.',
    http: 409,
  },
  method_refused: {
    message: 'This hook takes {allowed}, not {method}',
    hint: 'Send it with another method, or allow this one at the flow.',
    http: 405,
  },
  host_refused: {
    message: 'Requests for host "{host}" are not answered here',
    hint: 'Use the address that Pindro printed, or set --public-url to the address you use.',
    http: 403,
  },
  origin_refused: {
    message: 'Pages of {origin} may not call Pindro',
    hint: 'Open the console at its own address.',
    http: 403,
  },
  too_many_requests: {
    message: 'Too many requests from this address',
    hint: 'Wait a minute and try again.',
    http: 429,
    caller: true,
  },
} as const satisfies Entries;

import type { Entries } from './entry.js';

/** Who is asking, and whether they may. */
export const access = {
  not_signed_in: {
    message: 'An access key or a signed-in session is required',
    hint: 'Send "Authorization: Bearer KEY", or open the sign-in link that "pindro serve" prints.',
    http: 401,
  },
  key_without_bearer: {
    message: 'The Authorization header has a key without the scheme Bearer',
    hint: 'Send "Authorization: Bearer KEY".',
    http: 401,
  },
  key_unknown: {
    message: 'The access key is unknown',
    hint: 'Copy the whole key, or issue a new one with "pindro key issue". A key is shown only once.',
    http: 401,
  },
  key_revoked: {
    message: 'The access key "{name}" was revoked on {when}',
    hint: 'Issue a new one with "pindro key issue".',
    http: 401,
  },
  key_expired: {
    message: 'The access key "{name}" expired on {when}',
    hint: 'Rotate it with "pindro key rotate", or issue a new one.',
    http: 401,
  },
  key_busy: {
    message: 'The access key "{name}" has reached its limit of {limit} calls a minute',
    hint: 'Retry in {seconds} s.',
    http: 429,
    caller: true,
  },
  result_too_large: {
    message: 'The result of "{tool}" has {size}, more than the limit for clients',
    hint: 'Request less: narrower arguments, or a smaller limit.',
    http: 413,
    caller: true,
  },
  result_breaks_schema: {
    message: 'The result of "{tool}" does not match its result schema: {why}',
    hint: 'The call is correct. The builder must fix the flow, or the result schema on the endpoint.',
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
    hint: 'Ask somebody else to approve it. You can still reject it.',
    http: 403,
  },
  not_allowed: {
    message: 'The access key "{name}" does not grant access to {what}',
    hint: 'Issue a key with that scope, or use one that has it.',
    http: 403,
  },
  endpoint_off: {
    message: 'Endpoint "{name}" is disabled',
    hint: 'Enable it with "pindro {command}", or on its page in the console.',
    http: 403,
  },
  name_reserved: {
    message: '"{name}" is the name of a built-in endpoint',
    hint: 'Choose another name. Built-in endpoints cannot be changed.',
    http: 409,
  },
  not_open_to_assistants: {
    message: 'No flow named "{flow}" is open to assistants',
    hint: '{suggestion}',
    http: 404,
  },
  role_too_low: {
    message: '{name} has the role {role}, and this requires {needed} or above',
    hint: 'Ask an owner to do it, or to change your role.',
    http: 403,
  },
  password_wrong: {
    message: 'The name or password is wrong',
    hint: 'Retry, or ask an owner for a sign-in link ("pindro person link NAME").',
    http: 401,
  },
  page_unknown: {
    message: 'The request does not come from a console page',
    hint: 'Browsers send the Origin header automatically. Programs should send an access key.',
    http: 403,
  },
  last_owner: {
    message: '{name} is the only owner',
    hint: 'Give somebody else the role owner first.',
    http: 409,
  },
  sign_in_link_used: {
    message: 'This sign-in link has been used or has expired',
    hint: 'Run "pindro sign-in" for a new one.',
    http: 401,
  },
  signature_refused: {
    message: 'The signature was rejected: {why}',
    hint: 'Sign "ID.TIMESTAMP.BODY" with HMAC-SHA256 and send it as "webhook-signature: v1,BASE64".',
    http: 401,
  },
  message_repeated: {
    message: 'The message "{id}" was received before',
    hint: 'Nothing was done twice. Give each message its own ID.',
    http: 409,
  },
  method_refused: {
    message: 'This webhook accepts {allowed}, not {method}',
    hint: 'Send it with an accepted method, or allow {method} at the entry point.',
    http: 405,
  },
  host_refused: {
    message: 'Requests for host "{host}" are not accepted',
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
    hint: 'Retry in a minute.',
    http: 429,
    caller: true,
  },
} as const satisfies Entries;

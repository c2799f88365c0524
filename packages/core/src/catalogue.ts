/** One kind of error: what it says, what to do about it, and how each protocol carries it. */
export interface CatalogueEntry {
  /** Message template; `{name}` is filled from the parameters. */
  message: string;
  /** What to do next; filled like the message. */
  hint: string;
  /** HTTP status of the problem details answer (RFC 9457). */
  http: number;
  /** JSON-RPC error code (JSON-RPC 2.0, section 5.1) where the error answers a request as a protocol error. */
  rpc?: number;
}

/** Every error that leaves Pindro. Nothing else is thrown at a boundary. */
export const catalogue = {
  // what was sent
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
  request_invalid: { message: '{why}', hint: 'Compare the request with /api/v1/openapi.json.', http: 422, rpc: -32602 },
  not_found: { message: 'There is no {what} named "{name}"', hint: '{suggestion}', http: 404 },
  no_such_address: {
    message: 'Nothing answers at {method} {path}',
    hint: 'See /api/v1/openapi.json for what does.',
    http: 404,
  },
  already_there: {
    message: 'There is already a {what} named "{name}"',
    hint: 'Choose another name, or change the one that is there.',
    http: 409,
  },
  in_use: { message: '{what} "{name}" is still used by {users}', hint: 'Take it out there first.', http: 409 },
  value_unsafe: {
    message: 'The value at {where} {why}',
    hint: 'Send a value that JSON carries exactly.',
    http: 422,
    rpc: -32602,
  },
  // who is asking
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
  },
  result_too_large: {
    message: 'The result of "{tool}" has {size}, which is more than a client is sent',
    hint: 'Ask for less of it: narrower arguments, or a smaller limit.',
    http: 413,
  },
  result_breaks_schema: {
    message: 'The result of "{tool}" is not what its endpoint promises: {why}',
    hint: 'Nothing is wrong with the call. The builder must mend the flow, or the result schema on the endpoint.',
    http: 502,
  },
  not_allowed: {
    message: 'The access key "{name}" does not open {what}',
    hint: 'Issue a key with that scope, or use one that has it.',
    http: 403,
  },
  endpoint_off: {
    message: 'Endpoint "{name}" is switched off',
    hint: 'Switch it on with "pindro {name} on", or on its page in the console.',
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
  },
  // flows
  flow_invalid: { message: '{count} in flow "{name}"', hint: 'Mend each one; nothing was changed.', http: 422 },
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
  input_refused: { message: 'The input was refused: {why}', hint: '{fix}', http: 422 },
  flow_too_deep: {
    message: 'Flows call one another more than {limit} deep: {chain}',
    hint: 'Break the circle of calls.',
    http: 409,
  },
  // steps and expressions
  step_failed: { message: '{why}', hint: 'Look at what went into the step.', http: 500 },
  stopped_as_failed: { message: '{message}', hint: 'The flow ended itself on purpose with this message.', http: 422 },
  no_value: {
    message: '"{expression}" has no value: {why}',
    hint: 'Give the value, ask for it with has(), or make the field optional.',
    http: 422,
  },
  expression_failed: { message: '"{expression}" failed: {why}', hint: 'Mend the expression.', http: 422 },
  condition_not_boolean: {
    message: 'The condition of branch "{branch}" came out as {got}, not true or false',
    hint: 'Compare the value, for example with == or >.',
    http: 422,
  },
  config_refused: {
    message: 'What was filled in is not usable: {why}',
    hint: 'Compare it with the reference of step kind "{kind}".',
    http: 422,
  },
  timed_out: {
    message: '{what} took longer than {limit}',
    hint: 'Raise the timeout where it is set, or find out why it is slow.',
    http: 504,
  },
  cancelled: { message: '{what} was cancelled', hint: 'Run it again if that was not meant.', http: 499 },
  stopping: {
    message: 'The service is being stopped',
    hint: 'What was begun goes on by itself once it is back, unless nobody can know what its last step did. Look at it then.',
    http: 503,
  },
  workspace_busy: {
    message: 'As many runs as may be are under way ({limit}), and {queued} more wait for their turn',
    hint: 'Come back in {seconds} s, or raise --runs-at-once.',
    http: 503,
  },
  too_many_child_runs: {
    message: 'This run has begun {what}, as many as one run may: {chain}',
    hint: 'Look for a flow that calls itself; a long list is better worked through by the steps of one loop.',
    http: 409,
  },
  interrupted: {
    message: 'The service stopped while this ran',
    hint: 'Look at what the last step did before running it again.',
    http: 503,
  },
  script_failed: {
    message: 'The script failed{where}: {why}',
    hint: 'Mend the script; what it was given stands in the trace.',
    http: 422,
  },
  script_limit: {
    message: 'The script was stopped: {why}',
    hint: 'Look for a loop that never ends, or raise the limit at the step.',
    http: 422,
  },
  loop_failed: {
    message: '{failed} of {count} items failed, first item {index}: {why}',
    hint: 'Look at the items that failed in the trace; "on_failure: collect" goes on in spite of them.',
    http: 422,
  },
  not_approved: {
    message: '{what} was {decision}{by}{note}',
    hint: 'Follow the branch "{decision}" to say what should happen then.',
    http: 409,
  },
  approval_decided: {
    message: 'This was {decision} already',
    hint: 'Nothing has been changed.',
    http: 409,
  },
  never_comes: {
    message: 'The schedule "{cron}" never comes: {why}',
    hint: 'Write five fields, for example "0 6 * * 1" for Mondays at six.',
    http: 422,
  },
  // what is outside
  mail_refused: {
    message: 'The mail server refused the mail: {why}',
    hint: 'Check the addresses, and the credential of the mail server.',
    http: 502,
  },
  mail_nowhere: {
    message: 'There is no mail server to hand the mail to',
    hint: 'Start Pindro with --smtp smtp://HOST:PORT, or set PINDRO_SMTP.',
    http: 409,
  },
  address_unreachable: {
    message: '{what} at {address} cannot be reached: {why}',
    hint: 'Check that it runs and that the address is right.',
    http: 502,
  },
  address_forbidden: {
    message: '{address} may not be reached from here: {why}',
    hint: 'Use another address, or ask whoever runs Pindro to allow this one.',
    http: 403,
  },
  answer_too_large: {
    message: '{what} answered with more than {limit}',
    hint: 'Ask for less at once, or raise the limit where it is set.',
    http: 502,
  },
  credential_elsewhere: {
    message: 'Credential "{name}" goes to {allowed}, not to {origin}',
    hint: 'If that is meant, allow it with "pindro credential origins {name} {origin}".',
    http: 403,
  },
  http_status: {
    message: '{address} answered {status}',
    hint: 'See the answer in the trace; allow the status with "accept" if it is meant.',
    http: 502,
  },
  server_unreachable: {
    message: 'Tool server "{server}" cannot be reached: {why}',
    hint: 'Start it or mend its address; Pindro reconnects by itself.',
    http: 502,
  },
  server_not_mcp: {
    message: 'What answers at {address} is not an MCP server: {why}',
    hint: 'Check the path; MCP servers often live under /mcp.',
    http: 502,
  },
  server_wants_key: {
    message: 'Tool server "{server}" refused the call as not authorised ({status})',
    hint: 'Attach it with a credential, or give its credential a new secret.',
    http: 502,
  },
  caller_without_credential: {
    message: 'Tool server "{server}" is called with the caller\'s own credential, and {caller} has none for it',
    hint: 'Issue the caller a key that says which: pindro key issue NAME --credential {server}=CREDENTIAL',
    http: 403,
  },
  own_credential_refused: {
    message: 'Tool server "{server}" refused the credential "{credential}", which is the caller\'s own',
    hint: 'Give that credential a new secret, or name another one on the key.',
    http: 502,
  },
  server_lost: {
    message: 'Tool server "{server}" went away in the middle of the call to {tool}',
    hint: 'Find out whether the call took effect before you repeat it.',
    http: 502,
  },
  tool_unknown: { message: 'There is no tool "{tool}" on {where}', hint: '{suggestion}', http: 404, rpc: -32602 },
  arguments_refused: { message: 'The arguments for {tool} were refused: {why}', hint: '{fix}', http: 422 },
  argument_governed: {
    message: '"{argument}" of {tool} is set by the builder and cannot be sent',
    hint: 'Leave "{argument}" out.',
    http: 422,
  },
  rule_breaks_tool: {
    message: 'What the builder set for {tool} does not fit the tool: {why}',
    hint: 'Change the argument rule of "{argument}".',
    http: 422,
  },
  tool_reported_error: {
    message: '{tool} reported an error: {why}',
    hint: 'Change what was sent, or mend what the tool needs.',
    http: 422,
  },
  model_unreachable: {
    message: 'Model connection "{model}" cannot be reached: {why}',
    hint: 'Check its address and that the model runs.',
    http: 502,
  },
  model_refused: { message: 'Model connection "{model}" answered {status}: {why}', hint: '{fix}', http: 502 },
  model_garbage: {
    message: 'Model connection "{model}" sent an answer that cannot be read: {why}',
    hint: 'Check that its dialect fits what runs at the address.',
    http: 502,
  },
  round_limit: {
    message: 'The agent used all {limit} rounds without coming to an answer',
    hint: 'Raise limits.rounds, narrow the toolbox, or say in the instructions when to stop.',
    http: 422,
  },
  token_limit: {
    message: 'The agent used {used} tokens; its limit is {limit}',
    hint: 'Raise limits.tokens, or shorten memory and tool results.',
    http: 422,
  },
  // tables
  table_refused: {
    message: 'The row was not added to "{table}": {why}',
    hint: 'Follow the branch "refused" to say what should happen then.',
    http: 409,
  },
  value_refused: {
    message: 'Column "{column}" of "{table}" does not take {got}',
    hint: 'It takes {wants}.',
    http: 422,
  },
  // the house
  data_directory: { message: 'The data directory {path} cannot be used: {why}', hint: '{fix}', http: 500 },
  port_taken: {
    message: 'Port {port} on {host} is taken by another program',
    hint: 'Stop that one, or take another port with --port; 0 takes a free one.',
    http: 500,
  },
  storage_failed: {
    message: 'The record could not be written: {why}',
    hint: 'Check the free space and permissions of the data directory.',
    http: 503,
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
  },
} as const satisfies Record<string, CatalogueEntry>;

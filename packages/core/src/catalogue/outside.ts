import type { Entries } from './entry.js';

/** What flows reach: mail, web, tool servers, models. */
export const outside = {
  rule_without_value: {
    message: 'The builder\'s rule that sets "{argument}" of {tool} has no value here{why}',
    hint: 'This is for whoever built it: give the caller what the rule reads, or change the rule. The argument cannot be sent.',
    http: 422,
    caller: 'The argument cannot be sent. Say that this could not be done.',
  },
  tool_only_task: {
    message: 'The tool "{tool}" runs only as a task, which an ordinary call cannot begin',
    hint: 'Choose another tool of the server.',
    http: 422,
  },
  mail_refused: {
    message: 'The mail server refused the mail: {why}',
    hint: 'Check the addresses, and the credential of the mail server.',
    http: 502,
    caller: 'Check the addresses, where they were sent along.',
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
    caller: 'Call it again in a while, or go on without it.',
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
    caller: 'Ask for less at once.',
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
    caller: 'Call it again in a while, or go on without it.',
  },
  program_not_started: {
    message: 'The program of tool server "{server}" could not be started: {why}',
    hint: '{cure}',
    http: 502,
  },
  program_ended: {
    message: 'The program of tool server "{server}" ended {how}{words}',
    hint: 'Mend what its last words say. Of a server that is attached the whole log stands on its page ("pindro server log {server}").',
    http: 502,
  },
  program_babbles: {
    message: 'The program of tool server "{server}" writes {words} where only messages of the protocol belong',
    hint: 'Start it in the way in which it speaks MCP over standard input and output; what it has to say otherwise belongs on standard error.',
    http: 502,
  },
  program_forbidden: {
    message: '{command} may not be run from here: {why}',
    hint: 'Ask whoever runs Pindro to name it with --programs, or start it elsewhere and attach its address.',
    http: 403,
  },
  program_not_allowed: {
    message: 'The program of tool server "{server}" came out of a file, and nobody has let it run yet',
    hint: 'Look at what it runs, and let it: pindro server allow {server}. That takes the role owner.',
    http: 403,
  },
  tool_too_early: {
    message: '{tool} may be used only after {needs} succeeded in this conversation',
    hint: 'Call {needs} first, and look at what comes back.',
    http: 409,
    caller: true,
  },
  tool_held: {
    message: 'The tool "{tool}" of "{server}" is held back: {why}',
    hint: 'Look at what changed, and accept it or not: pindro server changes {server}',
    http: 409,
  },
  program_is_shared: {
    message:
      'Tool server "{server}" is a program of this machine, which everybody shares; no caller has a credential of their own for it',
    hint: "Call it with the workspace's credential, or attach it a second time with the other one.",
    http: 409,
  },
  server_left_alone: {
    message: 'Tool server "{server}" failed {times} times in a row and is left alone for {seconds} s: {why}',
    hint: 'Mend what it says; Pindro looks whether it is well by itself, and calls go through again then.',
    http: 503,
    caller: 'Call it again in a while, or go on without it.',
  },
  secret_missing: {
    message: 'Credential "{name}" has no value now: {why}',
    hint: 'Put it there, and start the service anew where it reads it in its environment; or give the credential a secret.',
    http: 409,
  },
  credential_unfit: {
    message: 'Credential "{name}" is of a kind that cannot go along with a request',
    hint: 'Name another one, or change its kind with "pindro credential change {name} --kind bearer".',
    http: 409,
  },
  server_not_mcp: {
    message: 'What answers at {address} is not an MCP server: {why}',
    hint: '{cure}',
    http: 502,
  },
  tool_refused: {
    message: 'Tool server "{server}" refused this call of {tool} (403)',
    hint: 'Its credential may not use the tool; ask whoever keeps the server, or take the tool out.',
    http: 502,
  },
  tool_broke: {
    message: 'Tool server "{server}" failed inside at this call of {tool} ({status})',
    hint: 'Nobody knows whether it had an effect. Look into the log of the server, or ask whoever keeps it.',
    http: 502,
    caller: 'Nobody knows whether it had an effect: look before you call it again.',
  },
  tool_answer_odd: {
    message: 'What {tool} of "{server}" answered is no result of a tool',
    hint: 'Ask whoever keeps the server; other calls are not touched by it.',
    http: 502,
  },
  server_busy: {
    message: 'Tool server "{server}" asks to come back later: it answered {status}',
    hint: 'Try again in a while; Pindro does so by itself.',
    http: 503,
    caller: 'Call it again in a while.',
  },
  attach_unclear: {
    message: 'No tool server could be made out of this: {why}',
    hint: "Paste its address, a client's settings as JSON, a command line, or an entry of a catalogue.",
    http: 422,
  },
  server_wants_key: {
    message: 'Tool server "{server}" refused the call as not authorised ({status}){wants}',
    hint: 'Attach it with a credential, or give its credential a new secret.',
    http: 502,
  },
  caller_without_credential: {
    message: 'Tool server "{server}" is called with the caller\'s own credential, and {caller} has none for it',
    hint: 'Issue the caller a key that says which: pindro key issue NAME --credential {server}=CREDENTIAL',
    http: 403,
    caller: 'Whoever gave out the access key can name a credential on it.',
  },
  own_credential_refused: {
    message: 'Tool server "{server}" refused the credential "{credential}", which is the caller\'s own',
    hint: 'Give that credential a new secret, or name another one on the key.',
    http: 502,
    caller: 'Whoever gave out the access key can renew that credential.',
  },
  server_lost: {
    message: 'Tool server "{server}" went away in the middle of the call to {tool}{how}',
    hint: 'Find out whether the call took effect before you repeat it.',
    http: 502,
    caller: true,
  },
  tool_unknown: {
    message: 'There is no tool "{tool}" on {where}',
    hint: '{suggestion}',
    http: 404,
    rpc: -32602,
    caller: true,
  },
  arguments_refused: {
    message: 'The arguments for {tool} were refused: {why}',
    hint: '{fix}',
    http: 422,
    caller: true,
  },
  argument_governed: {
    message: '"{argument}" of {tool} is set by the builder and cannot be sent',
    hint: 'Leave "{argument}" out.',
    http: 422,
    caller: true,
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
    caller: 'Change what was sent, if that is what it speaks of.',
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
  model_cut_off: {
    message: 'Model connection "{model}" was cut off: its answer came to the longest length',
    hint: 'Allow longer answers in the settings of the connection (max_tokens), or ask for less at once.',
    http: 502,
  },
  model_declined: {
    message: 'Model connection "{model}" declined to answer: {why}',
    hint: 'Word the instructions or the message otherwise, or use another model.',
    http: 502,
  },
  round_limit: {
    message: 'The agent used its {rounds} without coming to an answer',
    hint: 'Raise limits.rounds, narrow the toolbox, or say in the instructions when to stop.',
    http: 422,
    caller: 'Ask for less at once.',
  },
  token_limit: {
    message: 'The agent used {used} tokens; its limit is {limit}',
    hint: 'Raise limits.tokens, or shorten memory and tool results.',
    http: 422,
    caller: 'Ask for less at once.',
  },
  money_limit: {
    message: 'The agent spent {used}; its limit is {limit}',
    hint: 'Raise limits.money, use a cheaper model, or hand on less of large results.',
    http: 422,
    caller: 'Ask for less at once.',
  },
  call_limit: {
    message: 'No further call of a tool is allowed: there may be {limit} in all',
    hint: 'Answer with what is known, and say what could not be done.',
    http: 422,
    caller: true,
  },
  run_limit: {
    message: 'No further flow may be begun: there may be {limit} in all',
    hint: 'Answer with what is known, and say what could not be done.',
    http: 422,
    caller: true,
  },
  agent_in_circles: {
    message: 'The agent was stopped, because {why}',
    hint: 'See in the trace what it was told. Say in the instructions what to do then, mend what the tool wants, or narrow the toolbox.',
    http: 422,
    caller: 'Do not call it in the same way again. Answer with what is known, and say what could not be done.',
  },
  tool_calls_used: {
    message: '{tool} may be called {limit} times in one conversation, and was',
    hint: 'Go on without it, and say what could not be done.',
    http: 422,
    caller: true,
  },
  call_not_approved: {
    message: '{tool} was not called: {who} {why}',
    hint: 'Nothing was done. Do not call it again in the same way; say what was refused, or do what was asked for instead.',
    http: 403,
    caller: true,
  },
  call_in_doubt: {
    message: 'Nobody knows whether {tool} did it: Pindro was stopped while it was called',
    hint: 'Look first whether it happened. Do not do it again unless it did not.',
    http: 409,
    caller: true,
  },
  conversation_waits: {
    message: 'This conversation waits: {what}',
    hint: 'It goes on once that is answered. Answer it, or begin a fresh conversation.',
    http: 409,
    caller: true,
  },
} as const satisfies Entries;

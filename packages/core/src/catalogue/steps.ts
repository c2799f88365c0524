import type { Entries } from './entry.js';

/** Steps and expressions, while a run goes on. */
export const steps = {
  step_failed: { message: '{why}', hint: 'Look at what went into the step.', http: 500 },
  stopped_as_failed: {
    message: '{message}',
    hint: 'The flow ended itself on purpose with this message.',
    http: 422,
    caller: '',
  },
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
    caller: 'It may have done part of its work: look before you call it again.',
  },
  cancelled: {
    message: '{what} was cancelled',
    hint: 'Run it again if that was not meant.',
    http: 499,
    caller: 'Call it again if that was not meant.',
  },
  stopping: {
    message: 'The service is being stopped',
    hint: 'What was begun goes on by itself once it is back, unless nobody can know what its last step did. Look at it then.',
    http: 503,
    caller: true,
  },
  workspace_busy: {
    message: 'As many runs as may be are under way ({limit}), and {queued} more wait for their turn',
    hint: 'Come back in {seconds} s, or raise --runs-at-once.',
    http: 503,
    caller: 'Call it again in a while.',
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
    caller: 'Look at what it did before you call it again.',
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
    message: '“{what}” was {outcome}{by}{note}',
    hint: 'Follow the branch "{decision}" to say what should happen then.',
    http: 409,
    caller: 'Do not ask for the same again; say what was not approved.',
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
} as const satisfies Entries;

import type { Entries } from './entry.js';

/** Errors of steps and expressions during a run. */
export const steps = {
  step_failed: { message: '{why}', hint: 'Check the input of the step.', http: 500 },
  stopped_as_failed: {
    message: '{message}',
    hint: 'The flow stopped at a stop step with this message',
    http: 422,
    caller: '',
  },
  no_value: {
    message: '"{expression}" has no value: {why}',
    hint: 'Supply the value, test for it with has(), or make the field optional.',
    http: 422,
  },
  expression_failed: { message: '"{expression}" failed: {why}', hint: 'Fix the expression.', http: 422 },
  condition_not_boolean: {
    message: 'The condition of branch "{branch}" is {got}, not true or false',
    hint: 'Use a comparison, for example with == or >.',
    http: 422,
  },
  config_refused: {
    message: "The step's settings are invalid after evaluation: {why}",
    hint: 'Compare them with the reference of step kind "{kind}".',
    http: 422,
  },
  timed_out: {
    message: '{what} took longer than {limit}',
    hint: 'Raise the timeout, or find out why it is slow.',
    http: 504,
    caller: 'The work may be partly done: check before you retry.',
  },
  cancelled: {
    message: '{what} was cancelled',
    hint: 'If that was not intended, run it again.',
    http: 499,
    caller: 'If that was not intended, call it again.',
  },
  stopping: {
    message: 'The service is shutting down',
    hint: 'Interrupted work resumes after the restart, unless the outcome of its last step is unknown. In that case, check it first.',
    http: 503,
    caller: true,
  },
  workspace_busy: {
    message: '{limit} runs are in progress (the limit) and {queued} are queued',
    hint: 'Retry in {seconds} s, or raise --runs-at-once.',
    http: 503,
    caller: 'Retry later.',
  },
  too_many_child_runs: {
    message: 'This run has started {what}, the limit for one run: {chain}',
    hint: 'Look for a flow that calls itself. Process a long list with the steps of one loop.',
    http: 409,
  },
  interrupted: {
    message: 'The service stopped during this run',
    hint: 'Check what the last step did before you run it again.',
    http: 503,
    caller: 'Check what it did before you call it again.',
  },
  script_failed: {
    message: 'The script failed{where}: {why}',
    hint: 'Fix the script. Its input is in the trace.',
    http: 422,
  },
  script_limit: {
    message: 'The script was stopped: {why}',
    hint: 'Look for an endless loop, or raise the limit at the step.',
    http: 422,
  },
  loop_failed: {
    message: '{failed} of {count} items failed, first item {index}: {why}',
    hint: 'See the failed items in the trace. "on_failure: collect" continues despite them.',
    http: 422,
  },
  not_approved: {
    message: '“{what}” was {outcome}{by}{note}',
    hint: 'To handle this case, add a step after the branch "{decision}".',
    http: 409,
    caller: 'Do not ask for the same again; say what was not approved.',
  },
  approval_decided: {
    message: 'This was already {decision}',
    hint: 'Nothing was changed.',
    http: 409,
  },
  never_comes: {
    message: 'The schedule "{cron}" never fires: {why}',
    hint: 'Use five fields, for example "0 6 * * 1" for Mondays at six.',
    http: 422,
  },
} as const satisfies Entries;

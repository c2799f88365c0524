import type { AgentReplay } from '../agent/conversation/agent-replay.js';
import { PindroError } from '../errors/errors.js';
import type { FlowDocument } from '../flow/document.js';
import { asJson, findUnsafe, isObject, type Json, type JsonObject } from '../json/json.js';
import { unknownArguments } from '../tools/rules.js';
import { sentence, validate } from '../tools/schema.js';
import type { Caller, Entry, RunHead, Through, Trial } from '../trace/journal/head.js';
import { newRunId, newSpanId, newTraceId } from '../trace/journal/ids.js';
import type { JournalEntry } from '../trace/journal/journal.js';
import { SHORTEST_SECRET, sensitiveValues } from '../trace/secrets/masking.js';
import type { Stage } from '../trace/spans/states.js';
import type { PreparedFlow } from './prepared.js';

/** What to run, with which input, and for whom. */
export interface RunRequest {
  document: FlowDocument;
  revision: number | null;
  stage: Stage;
  entry: Entry;
  caller: Caller;
  /** What conversation or client session the run belongs to; without one the run is its own. */
  session: string | null;
  input: Json;
  runId?: string;
  traceId?: string;
  /** The span of the caller under which the run stands, also when it is somebody else's (W3C trace context). */
  parentSpan?: string | null;
  /** The `tracestate` of the caller (W3C trace context). */
  traceState?: string | undefined;
  parentRun?: string | null;
  /** Set when the call was refused before it began; the run is then only the record of the refusal. */
  refusal?: PindroError;
  /** The tool call from outside that it answers. */
  through?: Through;
  /** Whether all exchanges are captured, also in child runs. */
  exact?: boolean | undefined;
  /** For a try-out of the draft. */
  trial?: {
    /** One step, done on what an earlier run left behind. */
    only?: { step: string; outputs: { [step: string]: Json } };
    /** Stubbed results. */
    held?: { [step: string]: { output: JsonObject; branch: string | null } };
    stepping?: boolean;
    /** Where the document is another than the flow's, by JSON Pointer: for this time only. */
    changed?: string[];
    /** Agents that work again from a record, by the path of their step. */
    rehearsed?: { [path: string]: AgentReplay };
  };
  /** The journal of a run that resumes after a restart. */
  resume?: readonly JournalEntry[];
}

/** Maximum number of inputs or arguments. */
export const MOST_INPUTS = 1000;

/**
 * Rejects an input with too many properties.
 * @param input of a run
 * @throws request_invalid when there are too many
 */
export function refuseManyInputs(input: Json): void {
  const count = isObject(input) ? Object.keys(input).length : 0;
  if (count > MOST_INPUTS)
    throw new PindroError('request_invalid', { why: `There are ${count} inputs, and the limit is ${MOST_INPUTS}` });
}

/** What a run is from its first moment on. */
export function headOf(request: RunRequest, now: number): RunHead {
  const id = request.runId ?? newRunId(now);
  const { trial } = request;
  return {
    id,
    traceId: request.traceId ?? newTraceId(),
    parentSpan: request.parentSpan ?? null,
    ...(request.traceState && { traceState: request.traceState }),
    parentRun: request.parentRun ?? null,
    flow: request.document.name,
    revision: request.revision,
    stage: request.stage,
    entry: request.entry,
    caller: request.caller,
    session: request.session ?? id,
    input: request.input,
    startedAt: now,
    span: newSpanId(),
    ...(request.through && { through: request.through }),
    ...(request.exact && { exact: true }),
    ...(trial && {
      trial: {
        ...(trial.only && { only: trial.only.step }),
        ...(trial.held && Object.keys(trial.held).length > 0 && { held: Object.keys(trial.held) }),
        ...(trial.stepping && { stepping: true }),
        ...(trial.changed && { changed: trial.changed }),
        ...(trial.rehearsed && { rehearsed: Object.keys(trial.rehearsed) }),
      } satisfies Trial,
    }),
  };
}

/**
 * Rejects an input that JSON cannot represent exactly. A value that is nested too deeply is omitted from the record.
 */
export function withSafeInput(given: RunRequest): RunRequest {
  const request = withSafeSession(given);
  const unsafe = findUnsafe(request.input);
  if (!unsafe) return request;
  const { at, why, deep } = unsafe;
  const unfit = new PindroError('value_unsafe', { where: at || 'the top', why }, { at });
  // Whatever else was found wrong with it then came of its depth.
  const refusal = deep ? unfit : (request.refusal ?? unfit);
  return { ...request, refusal, ...(deep && { input: `(omitted: it ${why})` }) };
}

/** A session has a name that can be kept and looked for; a run with another one is refused, and recorded without it. */
function withSafeSession(request: RunRequest): RunRequest {
  const { session } = request;
  if (session === null || SESSION.test(session)) return request;
  const why = `must be a string of 1 to ${LONGEST_SESSION} characters without control characters`;
  const refusal = new PindroError('value_unsafe', { where: 'the session', why }, { at: '/session' });
  return { ...request, session: null, refusal };
}
const LONGEST_SESSION = 200;
const SESSION = new RegExp(`^[^\\x00-\\x1f\\x7f\\ud800-\\udfff]{1,${LONGEST_SESSION}}$`);

/** @throws input_refused when it does not fit what the flow takes */
export function refuseInput(flow: PreparedFlow, input: Json): void {
  refuseShortSecrets(flow, input);
  const wrong = validate(flow.input, input);
  if (wrong.length === 0) return;
  // A misspelled name explains a missing one.
  const mistakes = isObject(input)
    ? [...unknownArguments(flow.input, input, 'an input of this flow'), ...wrong]
    : wrong;
  const argument = mistakes[0]!.at.split('/')[1] ?? '';
  throw new PindroError(
    'input_refused',
    { why: sentence(mistakes), fix: 'Correct these inputs and send it again.' },
    {
      at: mistakes[0]!.at,
      mistakes,
      details: { argument, reason: mistakes[0]!.message, mistakes: asJson(mistakes) },
    },
  );
}

/** What is marked sensitive and too short to be masked could not be kept out of what is shown. */
function refuseShortSecrets(flow: PreparedFlow, input: Json): void {
  const short = sensitiveValues(flow.input, input).find((one) => one !== '' && one.length < SHORTEST_SECRET);
  if (short === undefined) return;
  throw new PindroError('input_refused', {
    why: `a secret value has ${short.length} characters, and needs at least ${SHORTEST_SECRET}`,
    fix: 'Send a longer value, or remove "writeOnly" from the input if it is not a secret.',
  });
}

import { linkAbort, orAborted } from '../async/abort.js';
import { asPindroError, type ErrorCode, PindroError, wasCutOff } from '../errors/errors.js';
import { type Missing, noValue, type Scope, seenBy, Template } from '../expression/template.js';
import { mistakesOf } from '../flow/shape.js';
import { isObject, type JsonObject, pointer, pointerParts } from '../json/json.js';
import type { StepContext, StepOutcome, StepServices } from '../steps/kind.js';
import { inWords } from '../steps/sentence.js';
import { milliseconds } from '../text/duration.js';
import { attribute } from '../trace/spans/attributes.js';
import type { PreparedStep } from './prepared.js';

/** Failures after which the work has certainly not happened. */
const NOT_BEGUN: readonly ErrorCode[] = [
  'address_unreachable',
  'server_unreachable',
  'server_wants_key',
  'program_not_started',
  'server_left_alone',
  'model_unreachable',
];

/** Where a step stands in its run. */
export interface StepEnvironment extends Pick<StepContext, 'run' | 'recorder' | 'path' | 'parkedUntil'> {
  /** The span that the step stands under. */
  parentSpan: string;
  signal: AbortSignal;
  /** The first attempt's number, where the step had begun before the service was started again. */
  firstAttempt?: number | undefined;
  /** Set if the step resumes after a restart. */
  again?: { id: string; start: number } | undefined;
  /** What a step may ask of the run, once its span is known. */
  services(span: string, scope: Scope): StepServices;
}

export interface Settled {
  outcome: StepOutcome;
  attempt: number;
}

/**
 * Does one step: fills its configuration, holds it against its kind, runs it within its time, and tries again where
 * that was asked for. Each attempt is one span.
 */
export async function doStep(step: PreparedStep, scope: Scope, environment: StepEnvironment): Promise<Settled> {
  const { retry } = step.document;
  for (let attempt = environment.firstAttempt ?? 1; ; attempt++) {
    try {
      return { outcome: await attemptOnce(step, scope, environment, attempt), attempt };
    } catch (thrown) {
      const error = asPindroError(thrown);
      const again = retry && attempt <= retry.times && !environment.signal.aborted;
      const notBegun = NOT_BEGUN.includes(error.code) && !wasCutOff(error);
      const safe = retry?.repeat || step.repeatable || notBegun;
      if (!again || !safe) throw Object.assign(error, { attempt });
      if (needsMark(step)) environment.recorder.journal({ type: 'attempt_failed', path: environment.path, attempt });
      await pause(milliseconds(retry.pause), environment.signal);
    }
  }
}

async function attemptOnce(
  step: PreparedStep,
  scope: Scope,
  environment: StepEnvironment,
  attempt: number,
): Promise<StepOutcome> {
  const { recorder } = environment;
  const { timeout } = step.document;
  const attributes = {
    [attribute.kind]: step.kind.name,
    [attribute.path]: environment.path,
    ...(attempt > 1 && { [attribute.attempt]: attempt }),
  };
  let span = null as ReturnType<typeof recorder.span> | null;
  const clock = timeout ? deadline(timeout, step, environment.signal) : null;
  const signal = clock?.signal ?? environment.signal;
  try {
    const { value, missing } = step.config.fill(scope);
    const given: JsonObject = { ...(isObject(value) ? value : {}), ...step.raw };
    span = recorder.span('step', step.name, environment.parentSpan, {
      input: given,
      attributes,
      again: environment.again,
    });
    const config = parseConfig(step, given, missing);
    if (needsMark(step)) {
      const { name: kind } = step.kind;
      recorder.journal({
        type: 'step_begun',
        path: environment.path,
        attempt,
        kind,
        what: inWords(step.kind.sentence(recorder.masker.json(given))),
      });
      await recorder.commit();
    }
    const { run, path, parkedUntil } = environment;
    const work = step.kind.run(config, {
      run,
      budget: run.budget,
      recorder,
      path,
      parkedUntil,
      attempt,
      signal,
      services: environment.services(span.id, scope),
      parentSpan: span.id,
      captureExchange: span.captureExchange,
      followed: step.followed,
      limit: timeout ? milliseconds(timeout) : null,
      seenBy: (value) => seenBy(value, scope),
      raw: step.rawParts,
      fill: (value, at, more) =>
        new Template(value, [...pointerParts(step.at), 'with', ...at]).require(more ? { ...scope, ...more } : scope),
    });
    const outcome = await orAborted(work, signal);
    if (outcome.branch) span.set({ [attribute.branch]: outcome.branch });
    span.done(outcome.output);
    return outcome;
  } catch (thrown) {
    const error = located(thrown, step);
    (span ?? recorder.span('step', step.name, environment.parentSpan, { attributes })).fail(error);
    throw error;
  } finally {
    clock?.clear();
  }
}

/** Whether the journal must say that the step is about to begin, since it cannot just be done again. */
const needsMark = (step: PreparedStep) => !step.repeatable && !step.kind.resumable;

/** The configuration held against its kind. @throws no_value where an expression left a needed field empty */
function parseConfig(step: PreparedStep, given: JsonObject, missing: Missing[]): unknown {
  const needed = missing.find((one) => one.required);
  if (needed) throw noValue(needed);
  const parsed = step.kind.config.safeParse(given);
  if (parsed.success) return parsed.data;
  const base = [...pointerParts(step.at), 'with'];
  const mistakes = mistakesOf(parsed.error, given, base);
  const empty = missing.find((one) => mistakes.some((mistake) => pointer(one.parts).startsWith(mistake.at)));
  if (empty) throw noValue(empty);
  throw new PindroError(
    'config_refused',
    { why: mistakes.map((mistake) => mistake.message).join('; '), kind: step.kind.name },
    { at: mistakes[0]?.at ?? pointer(base), mistakes },
  );
}

/** The same error, pointing at the step where it does not point anywhere in the flow yet. */
function located(thrown: unknown, step: PreparedStep): PindroError {
  const error = asPindroError(thrown);
  if (error.at?.startsWith('/steps/')) return error;
  const inside = error.at === undefined || error.code === 'tool_reported_error' ? '' : error.at;
  return Object.assign(error, { at: `${step.at}/with${inside.replace(/^\/with/, '')}` });
}

function deadline(limit: string, step: PreparedStep, outer: AbortSignal): { signal: AbortSignal; clear(): void } {
  const stop = linkAbort(outer);
  const late = () =>
    stop.abort(
      new PindroError(
        'timed_out',
        { what: `Step "${step.name}"`, limit },
        { at: `${step.at}/timeout`, details: { step: step.name, limit } },
      ),
    );
  const timer = setTimeout(late, milliseconds(limit));
  return {
    signal: stop.signal,
    clear: () => {
      clearTimeout(timer);
      stop.release();
    },
  };
}

function pause(ms: number, signal: AbortSignal): Promise<void> {
  return orAborted(new Promise<void>((resolve) => setTimeout(resolve, ms)), signal);
}

import type { ErrorCode, ErrorRecord } from '../errors/errors.js';
import { isObject, type Json, type JsonObject, pointer, pointerParts, valueAt } from '../json/json.js';
import type { Receipt } from '../trace/receipts/receipt.js';
import { attribute } from '../trace/spans/attributes.js';
import type { Span } from '../trace/spans/span.js';
import type { RunState } from '../trace/spans/states.js';

/** One run of a trace, as far as a diagnosis looks at it. */
export interface DiagnosedRun {
  id: string;
  flow: string;
  parentRun: string | null;
  state: RunState;
  error: ErrorRecord | null;
  receipt?: Receipt | null;
  /** The document that ran, where it is known. */
  document?: Json;
  caller?: string;
  /** The tool of an endpoint whose client received an error instead of the result. */
  withheldFrom?: { endpoint: string; tool: string };
  /** What it came to then. */
  result?: Json;
}

/** A run with all runs it started, as one tree of spans. */
export interface Trace {
  runs: DiagnosedRun[];
  spans: Span[];
}

/** A span that failed, where it began to fail. */
export interface Failure {
  span: Span;
  error: ErrorRecord;
  run: DiagnosedRun;
  /** The flow whose run the span belongs to. */
  flow: string;
  /** From the span itself up to the root. */
  chain: Span[];
}

const NOWHERE: DiagnosedRun = { id: '', flow: '', parentRun: null, state: 'failed', error: null };

/** A trace in which everything is found at once. Parents that never came and circles of them are borne. */
export class IndexedTrace {
  readonly spans: readonly Span[];
  readonly runs: readonly DiagnosedRun[];
  readonly failures: readonly Failure[];
  readonly #spans: Map<string, Span>;
  readonly #children = new Map<string, Span[]>();
  readonly #runs: Map<string, DiagnosedRun>;
  readonly #explained = new Set<string>();
  #attempts: Map<string, Span[]> | null = null;

  constructor({ spans, runs }: Trace) {
    this.spans = spans;
    this.runs = runs;
    this.#spans = new Map(spans.map((span) => [span.spanId, span]));
    this.#runs = new Map(runs.map((run) => [run.id, run]));
    for (const span of spans) {
      if (span.parentId === null) continue;
      const beside = this.#children.get(span.parentId);
      if (beside) beside.push(span);
      else this.#children.set(span.parentId, [span]);
    }
    this.failures = this.#beginnings();
  }

  /** Failures that no rule has explained yet. */
  open(...codes: ErrorCode[]): Failure[] {
    const fits = ({ error }: Failure) => codes.length === 0 || codes.includes(error.code);
    return this.failures.filter((failure) => !this.#explained.has(failure.span.spanId) && fits(failure));
  }

  /** A rule has said what these spans show. */
  explain(spans: readonly string[]): void {
    for (const span of spans) this.#explained.add(span);
  }

  span(id: string): Span | undefined {
    return this.#spans.get(id);
  }

  children(span: Pick<Span, 'spanId'>): readonly Span[] {
    return this.#children.get(span.spanId) ?? [];
  }

  /** All that stands below a span. */
  *below(span: Pick<Span, 'spanId'>): Generator<Span> {
    const seen = new Set<string>([span.spanId]);
    const left = [...this.children(span)];
    for (let next = left.pop(); next; next = left.pop()) {
      if (seen.has(next.spanId)) continue;
      seen.add(next.spanId);
      yield next;
      left.push(...this.children(next));
    }
  }

  /** From a span up to the root. */
  chain(span: Span): Span[] {
    const chain: Span[] = [];
    const seen = new Set<string>();
    for (
      let here: Span | undefined = span;
      here && !seen.has(here.spanId);
      here = here.parentId ? this.#spans.get(here.parentId) : undefined
    ) {
      seen.add(here.spanId);
      chain.push(here);
    }
    return chain;
  }

  runOf(span: Span): DiagnosedRun {
    return this.#runs.get(span.run) ?? NOWHERE;
  }

  /** The step of the same run under which a span stands. */
  stepOf(span: Span): Span | undefined {
    return this.chain(span).find(({ work, run }) => work === 'step' && run === span.run);
  }

  agentOf(span: Span): Span | undefined {
    return this.chain(span).find(({ work, run }) => work === 'agent' && run === span.run);
  }

  /** All attempts at the step, the oldest first. */
  attemptsOf(step: Span): readonly Span[] {
    if (!this.#attempts) {
      this.#attempts = new Map();
      for (const one of this.of('step'))
        this.#attempts.set(attemptKey(one), [...(this.#attempts.get(attemptKey(one)) ?? []), one]);
    }
    return this.#attempts.get(attemptKey(step)) ?? [];
  }

  /** Spans of one kind of work, the oldest first. */
  of(work: Span['work']): Span[] {
    return this.spans.filter((span) => span.work === work);
  }

  /** The configuration of a step as the builder wrote it. */
  written(step: Span): JsonObject {
    const { document } = this.runOf(step);
    let here: Json | undefined = document;
    for (const part of pointerParts(stepPointer(step)))
      here = isObject(here) && Object.hasOwn(here, part) ? here[part] : undefined;
    return isObject(here) && isObject(here.with) ? here.with : {};
  }

  /**
   * Failures at their origin: a child with the same error explains its parents. Work that was cancelled next to or
   * below a failure is not a cause.
   */
  #beginnings(): Failure[] {
    const explainsParent = (child: Span, { error }: Span) =>
      child.error !== undefined &&
      (child.error.message === error!.message || (child.error.code === 'cancelled' && error!.code === 'cancelled'));
    const failed = this.spans.filter(
      (span) => span.error && !this.children(span).some((child) => explainsParent(child, span)),
    );
    const own = failed.filter((span) => span.error!.code !== 'cancelled');
    return (own.length > 0 ? own : failed).map((span) => {
      const run = this.runOf(span);
      return { span, error: span.error!, run, flow: run.flow, chain: this.chain(span) };
    });
  }
}

const attemptKey = ({ run, name, attributes }: Span) => `${run} ${attributes[attribute.path] ?? name}`;

/** Returns the JSON Pointer of a step in the document. Its path is STEP, or STEP/INDEX/STEP inside a loop. */
export function stepPointer(step: Span): string {
  const path = String(step.attributes[attribute.path] ?? step.name).split('/');
  const names = path.filter((_, index) => index % 2 === 0);
  return pointer(names.flatMap((name, index) => (index === 0 ? ['steps', name] : ['with', 'steps', name])));
}

/**
 * Returns the longest prefix of a pointer that exists in a document.
 * @param document that the pointer is meant for
 * @param wanted JSON Pointer (RFC 6901)
 * @returns a JSON Pointer that exists; empty for the whole document
 */
export function deepest(document: Json | undefined, wanted: string): string {
  if (document === undefined) return wanted;
  let here: Json | undefined = document;
  const found: string[] = [];
  for (const part of pointerParts(wanted)) {
    if (Array.isArray(here)) here = here[Number(part)];
    else here = isObject(here) && Object.hasOwn(here, part) ? here[part] : undefined;
    if (here === undefined) break;
    found.push(part);
  }
  return pointer(found);
}

/**
 * Returns the change that sets a value at a pointer, creating parents if needed.
 * @returns null if there is no possible parent
 */
export function settingAt(
  document: Json | undefined,
  wanted: string,
  to: Json,
): { at: string; from: Json; to: Json } | null {
  if (document === undefined) return null;
  const parts = pointerParts(wanted);
  const there = pointerParts(deepest(document, wanted)).length;
  const last = valueAt(document, parts.slice(0, there)) as Json;
  if (there === parts.length) return { at: wanted, from: last, to };
  if (!isObject(last)) return null;
  const inner = parts.slice(there + 1).reduceRight<Json>((value, part) => ({ [part]: value }), to);
  return { at: pointer(parts.slice(0, there + 1)), from: null, to: inner };
}

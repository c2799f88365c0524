import { catalogue } from '../catalogue/catalogue.js';
import type { Json } from '../json/json.js';
import type { Mistake, Problem } from './problem.js';

export type { Mistake, Problem };

export { catalogue };

export type ErrorCode = keyof typeof catalogue;

/** An error as stored in a trace. */
export interface ErrorRecord {
  code: ErrorCode;
  message: string;
  hint: string;
  at?: string;
  details?: { [key: string]: Json };
}

type Params = Record<string, string | number>;

const fill = (template: string, params: Params) =>
  template.replace(/\{(\w+)\}/g, (_, name: string) => String(params[name] ?? ''));

/**
 * Returns the system or network code of an error, or an empty text.
 * @param error anything that was thrown
 * @returns such as `ECONNREFUSED`
 */
export function systemCode(error: unknown): string {
  for (let here = error, depth = 0; here && depth < 6; depth++) {
    const { code, cause, errors } = here as { code?: unknown; cause?: unknown; errors?: unknown[] };
    if (typeof code === 'string' && /^[A-Z][A-Z0-9_]+$/.test(code)) return code;
    here = cause ?? errors?.[0];
  }
  return '';
}

const CUT_OFF = ['ECONNRESET', 'EPIPE', 'UND_ERR_SOCKET', 'UND_ERR_HEADERS_TIMEOUT', 'UND_ERR_BODY_TIMEOUT'];

/** Whether the connection broke after the request may have been sent, so that its outcome is unknown. */
export const wasCutOff = ({ code, details }: PindroError): boolean =>
  code === 'address_unreachable' && CUT_OFF.includes(String(details?.network));

interface Extra {
  /** JSON Pointer to what is wrong. */
  at?: string;
  mistakes?: Mistake[];
  /** Facts for the diagnosis, without secrets. */
  details?: { [key: string]: Json };
  run?: string;
  cause?: unknown;
}

/**
 * Returns an error and its fix in one text.
 * @param error message and hint
 * @returns two sentences, or one without a hint
 */
export const withHint = ({ message, hint }: Pick<ErrorRecord, 'message' | 'hint'>): string =>
  hint ? `${message}. ${hint}` : message;

/** Returns the title of a problem type: its code as words, such as `Body too large`. */
export const problemTitle = (code: string): string =>
  code.replaceAll('_', ' ').replace(/^./, (letter) => letter.toUpperCase());

/** An error of the {@link catalogue}. */
export class PindroError extends Error {
  override readonly name = 'PindroError';
  readonly code: ErrorCode;
  readonly hint: string;
  readonly at?: string;
  readonly mistakes?: Mistake[];
  readonly details?: { [key: string]: Json };
  run?: string;

  constructor(code: ErrorCode, params: Params = {}, extra: Extra = {}) {
    super(fill(catalogue[code].message, params), extra.cause === undefined ? undefined : { cause: extra.cause });
    this.code = code;
    this.hint = fill(catalogue[code].hint, params);
    if (extra.at !== undefined) this.at = extra.at;
    if (extra.mistakes) this.mistakes = extra.mistakes;
    if (extra.details) this.details = extra.details;
    if (extra.run) this.run = extra.run;
  }

  get status(): number {
    return catalogue[this.code].http;
  }

  toProblem(): Problem {
    return {
      type: `urn:pindro:error:${this.code}`,
      title: problemTitle(this.code),
      status: this.status,
      detail: this.message,
      code: this.code,
      hint: this.hint,
      ...(this.at !== undefined && { at: this.at }),
      ...(this.mistakes && { mistakes: this.mistakes }),
      ...(this.run && { run: this.run }),
    };
  }

  toRecord(): ErrorRecord {
    return {
      code: this.code,
      message: this.message,
      hint: this.hint,
      ...(this.at !== undefined && { at: this.at }),
      ...(this.details && { details: this.details }),
    };
  }

  /** The same error out of its record, for example from another thread. */
  static from(record: ErrorRecord): PindroError {
    const error = new PindroError(
      record.code,
      {},
      { ...(record.at !== undefined && { at: record.at }), ...(record.details && { details: record.details }) },
    );
    error.message = record.message;
    Object.assign(error, { hint: record.hint });
    return error;
  }
}

/** Receives every unexpected error with its reference. */
type Report = (thrown: unknown, reference: string) => void;
let report: Report = () => {};

/**
 * Registers a receiver for unexpected errors, such as a log.
 * @param to called with each such error
 */
export function reportUnforeseen(to: Report): void {
  report = to;
}

/** Says what is foreseen of what others throw, for example of a full disk; null for anything else. */
type Foresee = (thrown: unknown) => PindroError | null;
let foresee: Foresee = () => null;

/**
 * Registers how to convert errors of underlying software, so that they are reported consistently.
 * @param by returns an error for something that was thrown, or undefined
 */
export function useForeseen(by: Foresee): void {
  foresee = by;
}

const reported = new WeakMap<object, PindroError>();

/**
 * Converts anything thrown to a {@link PindroError}. An unexpected error is reported with its stack and becomes
 * `internal`, without its message, which may contain anything.
 * @param thrown anything
 * @returns the same object where it is a PindroError
 */
export function asPindroError(thrown: unknown): PindroError {
  if (thrown instanceof PindroError) return thrown;
  const known = typeof thrown === 'object' && thrown !== null ? reported.get(thrown) : undefined;
  if (known) return known;
  const foreseen = foresee(thrown);
  if (foreseen) return foreseen;
  const reference = Array.from(crypto.getRandomValues(new Uint8Array(4)), (byte) => byte.toString(16).padStart(2, '0'));
  const error = new PindroError('internal', { reference: reference.join('') }, { cause: thrown });
  if (typeof thrown === 'object' && thrown !== null) reported.set(thrown, error);
  report(thrown, reference.join(''));
  return error;
}

/**
 * Formats a count of mistakes: `1 mistake`, `2 mistakes`.
 * @param mistakes of a document
 * @returns the count in words
 */
export function countMistakes(mistakes: readonly unknown[]): string {
  return `${mistakes.length} ${mistakes.length === 1 ? 'mistake' : 'mistakes'}`;
}

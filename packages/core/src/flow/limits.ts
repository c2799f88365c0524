import type { Mistake } from '../errors/errors.js';
import { holdsMore, isObject, type Json } from '../json/json.js';

/** More steps than this in one flow are refused: nobody reads them, and a flow can call another one. */
const MAX_STEPS = 5000;
/** Texts, numbers and the like, in all. */
const MAX_VALUES = 100_000;
/** In characters. A longer document is not even read: reading it would take longer than anybody waits. */
const LONGEST = 2 * 1024 * 1024;

/** The mistake of a document that is longer than one may be, as text or as JSON. */
export function tooLong(written: string | Json): Mistake | undefined {
  const { length } = typeof written === 'string' ? written : (JSON.stringify(written) ?? '');
  if (length <= LONGEST) return undefined;
  const size = (length / 1024 / 1024).toFixed(1);
  return {
    at: '',
    message: `A flow document holds at most ${LONGEST / 1024 / 1024} MiB, not ${size}`,
    hint: 'Move data into a table, and parts of the flow into other flows.',
  };
}

/** The mistake of a document that holds more than one may hold. */
export function tooMuch(value: Json): Mistake | undefined {
  const steps = isObject(value) && isObject(value.steps) ? Object.keys(value.steps).length : 0;
  if (steps > MAX_STEPS)
    return {
      at: '/steps',
      message: `A flow holds at most ${MAX_STEPS} steps, not ${steps}`,
      hint: 'Move parts of it into other flows and call them with a step of kind "flow".',
    };
  if (!holdsMore(value, MAX_VALUES)) return undefined;
  return {
    at: '',
    message: `A flow document holds at most ${MAX_VALUES} values`,
    hint: 'Move data into a table.',
  };
}

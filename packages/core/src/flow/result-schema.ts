import { cutTemplate } from '../expression/cut.js';
import { typedEnvironment } from '../expression/types.js';
import { isObject, type Json, type JsonObject, type JsonSchema } from '../json.js';
import { allSteps } from './all-steps.js';
import type { FlowDocument } from './document.js';
import { scopeTypes } from './expressions.js';

const NAMED: Record<string, JsonObject> = {
  string: { type: 'string' },
  int: { type: 'integer' },
  double: { type: 'number' },
  bool: { type: 'boolean' },
};

/**
 * The JSON Schema of a flow's result, as far as it is certain: clients refuse a result that does not fit. A part that
 * a skipped step leaves out is not required.
 * @returns null where nothing is certain, or the result is not an object
 */
export function resultSchema(document: FlowDocument): JsonSchema | null {
  const { result } = document;
  if (!isObject(result)) return null;
  // An early answer or an end by a step has a result of its own.
  for (const { step } of allSteps(document.steps)) if (step.kind === 'answer' || step.kind === 'stop') return null;
  const environment = typedEnvironment(scopeTypes(document));
  const ofText = (text: string): JsonObject => {
    const pieces = cutTemplate(text.trim());
    const [only] = pieces;
    if (pieces.length !== 1 || !only || !('expression' in only)) return { type: 'string' };
    const { type } = environment.check(only.expression);
    const name = String(type ?? 'dyn');
    if (name.startsWith('list<')) return { type: 'array', ...itemsOf(name.slice(5, -1)) };
    return NAMED[name] ?? (name.startsWith('map<') || name.startsWith('Shape') ? { type: 'object' } : {});
  };
  const of = (value: Json): JsonObject => {
    if (typeof value === 'string') return ofText(value);
    if (Array.isArray(value)) return { type: 'array' };
    if (isObject(value))
      return {
        type: 'object',
        properties: Object.fromEntries(Object.entries(value).map(([name, inner]) => [name, of(inner)])),
      };
    return value === null ? {} : { type: typeof value as string };
  };
  return of(result) as JsonSchema;
}

const itemsOf = (type: string): JsonObject => (NAMED[type] ? { items: NAMED[type] } : {});

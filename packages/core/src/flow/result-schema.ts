import { cutTemplate } from '../expression/cut.js';
import { checkMixed } from '../expression/environment.js';
import { typedEnvironment } from '../expression/types.js';
import { isObject, type Json, type JsonObject, type JsonSchema } from '../json/json.js';
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
 * Derives the JSON Schema of a flow's result, as far as it is certain, because clients reject results that do not
 * match. Parts that depend on skipped steps are optional.
 * @param document of the flow
 * @returns null where nothing is certain, or the result is not an object
 */
export function resultSchema(document: FlowDocument): JsonSchema | null {
  const { result } = document;
  if (!isObject(result) || saysContent(result)) return null;
  // An early answer or an end by a step has a result of its own.
  for (const { step } of allSteps(document.steps)) if (step.kind === 'answer' || step.kind === 'stop') return null;
  const environment = typedEnvironment(scopeTypes(document));
  const ofText = (text: string): JsonObject => {
    const pieces = cutTemplate(text.trim());
    const [only] = pieces;
    if (pieces.length !== 1 || !only || !('expression' in only)) return { type: 'string' };
    const { type } = checkMixed(environment, only.expression);
    const name = String(type ?? 'dyn');
    // A whole number divided is one no more, whatever its type says.
    if (name === 'int' && !CERTAINLY_WHOLE.test(only.expression.trim())) return { type: 'number' };
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

/** An input that was declared so, or what a step counts. */
const CERTAINLY_WHOLE = /^(?:input(?:\.\w+)+|steps\.\w+\.count)$/;

/** A result of `content`, and perhaps `data`, may be sent as just that; what its data is then is known only when it is there. */
const saysContent = (result: JsonObject) =>
  'content' in result && Object.keys(result).every((key) => key === 'content' || key === 'data');

const itemsOf = (type: string): JsonObject =>
  type === 'int' ? { items: { type: 'number' } } : NAMED[type] ? { items: NAMED[type] } : {};

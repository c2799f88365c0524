import { type Mistake, PindroError } from '../errors/errors.js';
import { type Json, type JsonObject, type JsonSchema, ownOf } from '../json/json.js';
import type { ArgumentRules, ToolDescription } from '../ports/ports.js';
import { didYouMean } from '../text/suggest.js';
import { MOST_MISTAKES, sentence, validate, withDefaults } from './schema.js';
import type { FillLate } from './source.js';
import {
  isGoverned,
  isSet,
  isWithoutValue,
  propertiesOf,
  requiredOf,
  type SetRule,
  seenSchema,
} from './visible-schema.js';

export { argumentRule, argumentRules } from './argument-rule.js';
export { isGoverned, rulesFor, seenSchema } from './visible-schema.js';

const COMBINATORS = ['allOf', 'anyOf', 'oneOf', 'if'] as const;

/**
 * Returns the rules that cannot apply, with pointers below the rules.
 * @param tool name and input schema
 * @param rules of its arguments
 * @returns mistakes; none if all rules apply
 */
export function ruleMistakes(tool: Pick<ToolDescription, 'name' | 'inputSchema'>, rules: ArgumentRules): Mistake[] {
  const properties = propertiesOf(tool.inputSchema);
  const mistakes: Mistake[] = [];
  for (const [name, rule] of Object.entries(rules)) {
    const at = `/${name}`;
    if (!Object.hasOwn(properties, name)) {
      const hidden = COMBINATORS.some((word) => JSON.stringify(tool.inputSchema[word] ?? null).includes(`"${name}"`));
      mistakes.push({
        at,
        message: hidden
          ? `"${name}" of ${tool.name} occurs only inside a combinator, where a rule cannot reach it`
          : `${tool.name} has no argument "${name}"`,
        hint: hidden ? 'Rules apply to top-level properties only.' : didYouMean(name, Object.keys(properties)),
      });
    } else if (rule === 'omit' && requiredOf(tool.inputSchema).includes(name)) {
      mistakes.push({
        at,
        message: `"${name}" is required by ${tool.name} and cannot be omitted`,
        hint: 'Set a value, or let the caller or model supply it.',
      });
    } else if (isSet(rule) && !JSON.stringify(rule.set).includes('${')) {
      for (const fault of validate(properties[name] as JsonSchema, rule.set)) {
        mistakes.push({ at, message: `The value set for "${name}" of ${tool.name} is invalid: ${fault.message}` });
      }
    }
  }
  return mistakes;
}

/**
 * Returns the arguments to send: validated input merged with the builder's values, and validated against the tool's
 * schema.
 * @param tool name and input schema
 * @param rules of its arguments
 * @param given what the caller or model supplied
 * @param late fills rules that read values stored earlier in a conversation
 * @returns the arguments to send
 * @throws argument_governed, arguments_refused (the caller can fix it), rule_breaks_tool (the builder must)
 */
export function mergeArguments(
  tool: Pick<ToolDescription, 'name' | 'inputSchema'>,
  rules: ArgumentRules,
  given: JsonObject,
  late?: FillLate,
): JsonObject {
  for (const name of Object.keys(given)) {
    if (isGoverned(ownOf(rules, name))) {
      throw new PindroError(
        'argument_governed',
        { argument: name, tool: tool.name },
        { at: `/${name}`, details: { tool: tool.name, argument: name } },
      );
    }
  }
  const empty = requiredOf(tool.inputSchema).find((name) => isWithoutValue(ownOf(rules, name)));
  if (empty !== undefined)
    throw new PindroError(
      'rule_without_value',
      { argument: empty, tool: tool.name, why: '' },
      { at: `/${empty}`, details: { tool: tool.name, argument: empty } },
    );
  const seen = seenSchemaOf(tool.inputSchema, rules);
  const mistakes = [...validate(seen, given), ...unknownArguments(seen, given)];
  if (mistakes.length > 0) throw argumentsRefused(tool.name, mistakes, given);
  const governed = Object.entries(rules).filter(([, rule]) => isSet(rule));
  const asked = withRequiredDefaults(tool.inputSchema, given);
  if (governed.length === 0) return asked;
  const merged = {
    ...asked,
    ...Object.fromEntries(governed.map(([name, rule]) => [name, setValue(rule as SetRule, tool.name, late)])),
  };
  const broken = validate(tool.inputSchema, merged)[0];
  if (broken) {
    const argument = broken.at.split('/')[1] ?? '';
    throw new PindroError(
      'rule_breaks_tool',
      { tool: tool.name, argument, why: broken.message },
      { at: broken.at, details: { tool: tool.name, argument } },
    );
  }
  return merged;
}

const setValue = ({ set, late: isLate }: SetRule, tool: string, late?: FillLate): Json =>
  isLate && late ? late(set, tool) : set;

/** Required arguments with a default may be omitted. The tool supplies other defaults itself. */
function withRequiredDefaults(schema: JsonSchema, given: JsonObject): JsonObject {
  const wanted = requiredOf(schema).filter((name) => !Object.hasOwn(given, name));
  if (wanted.length === 0) return given;
  const properties = Object.entries(propertiesOf(schema)).filter(([name]) => wanted.includes(name));
  return withDefaults({ properties: Object.fromEntries(properties) }, given) as JsonObject;
}

const seenSchemas = new WeakMap<JsonSchema, WeakMap<ArgumentRules, JsonSchema>>();

/** {@link seenSchema}, cached by schema and rules. */
function seenSchemaOf(schema: JsonSchema, rules: ArgumentRules): JsonSchema {
  let byRules = seenSchemas.get(schema);
  if (!byRules) seenSchemas.set(schema, (byRules = new WeakMap()));
  let seen = byRules.get(rules);
  if (!seen) byRules.set(rules, (seen = seenSchema(schema, rules)));
  return seen;
}

/** A misspelled argument is a mistake even if the schema allows additional properties. */
export function unknownArguments(schema: JsonSchema, given: JsonObject, what = 'an argument here'): Mistake[] {
  if (
    schema.additionalProperties !== undefined ||
    schema.patternProperties ||
    COMBINATORS.some((word) => word in schema)
  )
    return [];
  const properties = propertiesOf(schema);
  const known = Object.keys(properties);
  return Object.keys(given)
    .filter((name) => !Object.hasOwn(properties, name))
    .slice(0, MOST_MISTAKES)
    .map((name) => ({ at: `/${name}`, message: `"${name}" is not ${what}`, hint: didYouMean(name, known) }));
}

export function argumentsRefused(tool: string, mistakes: Mistake[], given: Json): PindroError {
  return new PindroError(
    'arguments_refused',
    { tool, why: sentence(mistakes), fix: 'Correct these arguments and call again.' },
    {
      at: mistakes[0]!.at,
      mistakes,
      details: {
        ...{ tool, argument: mistakes[0]!.at.split('/')[1] ?? '', arguments: given },
        reason: mistakes[0]!.message,
      },
    },
  );
}

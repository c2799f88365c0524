import { isObject, type Json, type JsonObject, type JsonSchema } from '../../../json/json.js';
import { eachTool, type ReviewRule } from '../suggestion.js';
import { argumentsOf } from '../words.js';

/** What the model dialects refuse in a tool's schema, beyond plain objects, lists and values. */
const AT_TOP = ['oneOf', 'anyOf', 'allOf', 'not', 'enum', 'if'];
const REFUSED_INSIDE: Record<string, string> = {
  $ref: 'references',
  oneOf: '"oneOf"',
  allOf: '"allOf"',
  not: '"not"',
  if: '"if"',
  const: '"const"',
  patternProperties: '"patternProperties"',
  prefixItems: '"prefixItems"',
  dependentSchemas: '"dependentSchemas"',
};

/** Words of a schema that a dialect refuses, wherever they stand below it; names of properties are no such words. */
function refusedIn(schema: Json | undefined, found = new Set<string>()): Set<string> {
  if (!isObject(schema)) return found;
  for (const [word, value] of Object.entries(schema)) {
    if (word in REFUSED_INSIDE) found.add(word);
    if (word === 'type' && Array.isArray(value)) found.add('type');
    if (word === 'properties' && isObject(value)) for (const inner of Object.values(value)) refusedIn(inner, found);
    else if (Array.isArray(value)) for (const inner of value) refusedIn(inner, found);
    else if (isObject(value) && word !== 'default' && word !== 'example') refusedIn(value, found);
  }
  return found;
}

/** Returns an equivalent schema that every dialect accepts, if there is one. */
function plainer(schema: JsonSchema): JsonObject | null {
  const { const: only, type, oneOf, ...rest } = schema;
  const plain: JsonObject = { ...rest };
  if (only !== undefined) plain.enum = [only];
  if (Array.isArray(type)) {
    const types = type.filter((one) => one !== 'null');
    if (types.length !== 1) return null;
    plain.type = types[0]!;
  } else if (type !== undefined) plain.type = type;
  if (Array.isArray(oneOf)) {
    const values = oneOf.filter(isObject).flatMap((one) => (one.const === undefined ? [] : [one.const]));
    if (values.length !== oneOf.length) return null;
    plain.enum = values;
    plain.type ??= typeof values[0] as string;
  }
  return refusedIn(plain).size === 0 ? plain : null;
}

export const leftOut: ReviewRule = {
  code: 'left_out',
  about: 'Parts of a tool that would make clients refuse the whole list. They are not sent.',
  look: eachTool(({ name, left = [] }) =>
    left.map((what) => ({
      weight: 'hurts' as const,
      argument: null,
      title: `Not sent with "${name}": ${what}`,
      why: 'One such part makes clients refuse the whole list.',
      instead: 'Fix it at the source of the tool, or define the result schema here.',
      fix: null,
    })),
  ),
};

export const toldInWords: ReviewRule = {
  code: 'told_in_words',
  about: "Parts of a schema that an agent's model receives only as text, because its dialect does not support them.",
  look: eachTool(({ name, told }) => [
    told !== undefined &&
      told.what.length > 0 && {
        weight: 'could be better' as const,
        argument: null,
        title: `The model receives part of "${name}" as text only: ${told.what.join('; ')}`,
        why: `The dialect ${told.dialect} does not support it in a schema. It is added to the descriptions and enforced when the tool is called.`,
        instead: 'No fix needed. Models follow a simpler schema, or a different argument, more reliably.',
        fix: null,
      },
  ]),
};

export const refusedSchema: ReviewRule = {
  code: 'schema_refused',
  about: 'Parts of a schema that at least one model dialect rejects.',
  look: eachTool(({ name, inputSchema }) => {
    const top = AT_TOP.filter((word) => word in inputSchema);
    return [
      top.length > 0 && {
        weight: 'hurts' as const,
        argument: null,
        title: `The input of "${name}" has ${top.map((word) => `"${word}"`).join(' and ')} at the top level`,
        why: 'Models of the dialects messages and generate-content reject the whole request because of it.',
        instead: 'List all arguments under "properties" and describe which of them go together.',
        fix: null,
      },
      ...argumentsOf(inputSchema).map(({ name: argument, schema }) => {
        const words = [...refusedIn(schema)];
        const better = plainer(schema);
        return (
          words.length > 0 && {
            weight: 'hurts' as const,
            argument,
            title: `The schema of "${argument}" of "${name}" uses ${words.map((word) => REFUSED_INSIDE[word] ?? 'a list of types').join(', ')}`,
            why: 'Models of the dialect generate-content reject or ignore that part.',
            instead: better ? `Use ${JSON.stringify(better)}.` : 'Use simple types, enums and descriptions.',
            fix: better ? { argument, schema: better } : null,
          }
        );
      }),
    ];
  }),
};

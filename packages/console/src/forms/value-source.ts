import type { ToolDescription } from '@pindro/core/browser';
import { inferLookup, isObject, type JsonObject, type JsonSchema, type Lookup } from '@pindro/core/browser';

/** What `POST /values` is asked for a field. */
export interface ValueSource {
  server?: string;
  tool?: string;
  flow?: string;
  argument: string;
  arguments: JsonObject;
  from?: Lookup;
}

interface Tool {
  name: string;
  schema: JsonSchema;
  annotations?: ToolDescription['annotations'];
}

/** Where the values of an argument of a server's tool come from; null where nothing is likely to list them. */
export function sourceOfArgument(
  server: string,
  tool: string,
  argument: string,
  given: JsonObject,
  tools: readonly Tool[],
): ValueSource | null {
  const described = tools.map(({ name, schema, annotations }) => ({
    ...{ name, inputSchema: schema },
    ...(annotations && { annotations }),
  }));
  const own = described.find(({ name }) => name === tool);
  if (!own || !inferLookup(own, argument, described)) return null;
  const { [argument]: _, ...others } = given;
  return { server, tool, argument, arguments: withoutExpressions(others) };
}

/** Where the values of an input come from, where it says so. */
export function sourceOfInput(flow: string, schema: JsonSchema, input: string, given: JsonObject): ValueSource | null {
  const property = isObject(schema.properties) ? schema.properties[input] : undefined;
  const from = isObject(property) ? property['x-values'] : undefined;
  if (!isObject(from)) return null;
  const { [input]: _, ...others } = given;
  return { flow, argument: input, arguments: others, from: from as Lookup };
}

/** Values that are only known during a run cannot be sent now. */
const withoutExpressions = (given: JsonObject): JsonObject =>
  Object.fromEntries(Object.entries(given).filter(([, value]) => !JSON.stringify(value).includes('${')));

import {
  anyJson,
  argumentRules,
  CREDENTIAL_OWNERS,
  countMistakes,
  didYouMean,
  firstMistakes,
  humanSize,
  icon,
  isObject,
  type JsonObject,
  type Mistake,
  mistakesOf,
  nameSchema,
  ownOf,
  PindroError,
  readSource,
  ruleMistakes,
  type Source,
  type Surroundings,
  size,
  skimSource,
  sourceOf,
  TOOL_NAME,
} from '@pindro/core';
import { z } from 'zod';
import type { FlowChecker } from '../flows/checker.js';
import { isLong } from '../platform/work-thread.js';

export const ENDPOINT_FORMAT = 'pindro/endpoint@1';

const worded = {
  title: z.string().optional(),
  description: z.string().optional().describe('Description for the model; that of the flow or tool by default'),
  arguments: argumentRules.optional().describe('Supplied by'),
  annotations: z
    .strictObject({
      readOnlyHint: z.boolean().optional(),
      destructiveHint: z.boolean().optional(),
      idempotentHint: z.boolean().optional(),
      openWorldHint: z.boolean().optional(),
    })
    .optional()
    .describe('Corrects the derived side effects (MCP tool annotations)'),
  icon: icon.optional().describe('Icon: an https address or a data URI'),
  returns: z
    .record(z.string(), anyJson)
    .optional()
    .describe('JSON Schema of the result; derived as far as it is certain by default'),
};
const credential = z
  .enum(CREDENTIAL_OWNERS)
  .optional()
  .describe("Credential to send: the server's own, or the one that the caller's key names for it");
/** A whole server: what it has now and whatever it adds later. */
const passed = z.strictObject({
  use: z.array(z.string()).optional().describe('Names and patterns with *; a leading ! excludes'),
  arguments: argumentRules.optional().describe('Argument rules for every tool with that argument'),
  credential,
});
const exposed = z.union([
  z.strictObject({ flow: z.string(), ...worded }),
  z.strictObject({ server: z.string(), tool: z.string(), credential, ...worded }),
]);

export const endpointSchema = z.strictObject({
  format: z.literal(ENDPOINT_FORMAT),
  name: nameSchema,
  title: z.string().default(''),
  icon: icon.optional().describe('Icon: an https address or a data URI'),
  description: z.string().default('').describe('Description for people'),
  formerly: z.array(nameSchema).default([]).describe('Former names, whose addresses still work'),
  instructions: z.string().default('').describe('Instructions for the connecting model'),
  tools: z
    .record(z.string().regex(TOOL_NAME, 'must be lower-case letters, digits and _, beginning with a letter'), exposed)
    .default({}),
  servers: z.record(z.string(), passed).default({}).describe('Whole tool servers, including future tools'),
  access: z.enum(['keys', 'open']).default('keys'),
  off_since: z.iso.datetime().optional().describe('Time since it is disabled'),
  body_limit: size.default('1MiB').describe('Maximum size of a client message'),
});
export type EndpointDocument = z.infer<typeof endpointSchema>;
export type ExposedEntry = z.infer<typeof exposed>;

/** The JSON Schema (2020-12) of the endpoint document. */
export const endpointJsonSchema = () => ({
  ...z.toJSONSchema(endpointSchema, { io: 'input', unrepresentable: 'any' }),
  title: 'Pindro endpoint',
});

/** What an endpoint is held against. */
export interface EndpointSurroundings extends Pick<Surroundings, 'servers'> {
  flows: string[];
  inputOf(flow: string): JsonObject;
}

/** Nobody chooses among more; a model is lost long before. */
const MOST_TOOLS = 1000;
const LONGEST = 1024 * 1024;

/** An endpoint as a document. Locating each mistake is slow and omitted for long documents. */
export function readEndpoint(written: string | JsonObject): Source {
  const { length } = typeof written === 'string' ? written : JSON.stringify(written);
  if (length > LONGEST) {
    const message = `An endpoint document holds at most ${humanSize(LONGEST)}, not ${humanSize(length)}`;
    return { value: undefined, mistakes: [{ at: '', message }], locate: (mistake) => mistake };
  }
  if (typeof written !== 'string') return sourceOf(written);
  return isLong(written) ? skimSource(written) : readSource(written);
}

/** The same without keeping others waiting. */
export async function readEndpointAside(written: string | JsonObject, checker: FlowChecker): Promise<Source> {
  if (typeof written !== 'string' || !isLong(written) || written.length > LONGEST) return readEndpoint(written);
  const { over, ...skimmed } = await checker.skim(written, { tools: MOST_TOOLS });
  if (over) return { value: undefined, mistakes: [manyTools(over.count)], locate: (mistake) => mistake };
  return { ...skimmed, locate: (mistake) => mistake };
}

/** @throws endpoint_invalid with every mistake located, a hundred at most */
export function requireEndpoint(source: Source, surroundings: EndpointSurroundings): EndpointDocument {
  const name = isObject(source.value) && typeof source.value.name === 'string' ? source.value.name : '?';
  const refuse = (mistakes: Mistake[]) =>
    new PindroError('endpoint_invalid', { name, count: countMistakes(mistakes) }, { mistakes, at: mistakes[0]!.at });
  if (source.mistakes.length > 0) throw refuse(source.mistakes);
  const many = tooMany(source.value);
  if (many) throw refuse([source.locate(many)]);
  const parsed = endpointSchema.safeParse(source.value);
  if (!parsed.success)
    throw refuse(
      mistakesOf(parsed.error, source.value, [], { known: Object.keys(endpointSchema.shape) }).map((mistake) =>
        source.locate(mistake),
      ),
    );
  const mistakes = firstMistakes([parsed.data], (document) => meaningOf(document, surroundings));
  if (mistakes.length > 0) throw refuse(mistakes.map((mistake) => source.locate(mistake)));
  return parsed.data;
}

function tooMany(value: Source['value']): Mistake | undefined {
  const many = isObject(value) && isObject(value.tools) ? Object.keys(value.tools).length : 0;
  return many <= MOST_TOOLS ? undefined : manyTools(many);
}

const manyTools = (many: number): Mistake => ({
  at: '/tools',
  message: `An endpoint holds at most ${MOST_TOOLS} tools, not ${many}`,
  hint: 'Create separate endpoints for related tools.',
});

function* meaningOf({ tools, servers }: EndpointDocument, surroundings: EndpointSurroundings): Generator<Mistake> {
  for (const [tool, entry] of Object.entries(tools)) yield* checkEntry(tool, entry, surroundings);
  for (const server of Object.keys(servers))
    if (!ownOf(surroundings.servers, server)) yield unknownServer(`/servers/${server}`, server, surroundings);
}

const unknownServer = (at: string, server: string, surroundings: EndpointSurroundings): Mistake => ({
  at,
  message: `There is no tool server named "${server}"`,
  hint: didYouMean(server, Object.keys(surroundings.servers ?? {})),
});

function checkEntry(name: string, entry: ExposedEntry, surroundings: EndpointSurroundings): Mistake[] {
  const at = `/tools/${name}`;
  if ('flow' in entry) {
    if (!surroundings.flows.includes(entry.flow))
      return [
        {
          at: `${at}/flow`,
          message: `There is no flow named "${entry.flow}"`,
          hint: didYouMean(entry.flow, surroundings.flows),
        },
      ];
    return ruleMistakes({ name, inputSchema: surroundings.inputOf(entry.flow) }, entry.arguments ?? {}).map(
      (mistake) => ({
        ...mistake,
        at: `${at}/arguments${mistake.at}`,
      }),
    );
  }
  const tools = ownOf(surroundings.servers, entry.server);
  if (!tools) return [unknownServer(`${at}/server`, entry.server, surroundings)];
  const tool = tools.find((candidate) => candidate.name === entry.tool);
  if (!tool)
    return [
      {
        at: `${at}/tool`,
        message: `"${entry.server}" has no tool "${entry.tool}"`,
        hint: didYouMean(
          entry.tool,
          tools.map((known) => known.name),
        ),
      },
    ];
  return ruleMistakes(tool, entry.arguments ?? {}).map((mistake) => ({
    ...mistake,
    at: `${at}/arguments${mistake.at}`,
  }));
}

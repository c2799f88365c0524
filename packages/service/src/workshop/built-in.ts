import { WORKSHOP } from '@pindro/contract';
import { type FlowOutcome, type JsonSchema, mistakesOf, PindroError } from '@pindro/core';
import { z } from 'zod';
import { type BuiltIn, servedOwn } from '../endpoints/built-in.js';
import { ENDPOINT_FORMAT, endpointSchema } from '../endpoints/document.js';
import type { ToolCallRequest } from '../endpoints/tool-call-request.js';
import { INSTRUCTIONS } from './instructions.js';
import { WORKSHOP_TOOLS } from './tools/registry.js';
import type { WorkshopParts, WorkshopTool } from './tools/tool.js';

/** The workshop as an endpoint: connected to, tested, watched and counted like any other. */
export class WorkshopEndpoint implements BuiltIn {
  readonly name = WORKSHOP;
  readonly #document = endpointSchema.parse({
    format: ENDPOINT_FORMAT,
    name: WORKSHOP,
    title: 'Workshop for coding assistants',
    description: 'Lets a coding assistant read, call, examine and propose the flows that are open to it.',
    instructions: INSTRUCTIONS,
  });
  readonly #tools = WORKSHOP_TOOLS.map(({ name, title, about, input, reads, wider }) => {
    const { $schema: _, ...schema } = z.toJSONSchema(input, { io: 'input' });
    return servedOwn({ name, title, description: about, input: schema as JsonSchema, reads, wider });
  });

  constructor(private readonly parts: WorkshopParts) {}

  isOn = () => this.parts.workshop.isOn();
  document = () => this.#document;
  tools = () => this.#tools;

  async call(request: ToolCallRequest): Promise<FlowOutcome> {
    const tool = WORKSHOP_TOOLS.find(({ name }) => name === request.tool.name)!;
    const answer = await tool.call(readArguments(tool, request.given), this.parts, request);
    if ('outcome' in answer) return answer.outcome;
    return { run: '', state: 'done', result: answer.result };
  }
}

function readArguments({ name, input }: WorkshopTool, given: unknown): unknown {
  const parsed = input.safeParse(given);
  if (parsed.success) return parsed.data;
  const mistakes = mistakesOf(parsed.error, given);
  throw new PindroError(
    'arguments_refused',
    {
      tool: name,
      why: mistakes.map(({ at, message }) => `${at.slice(1) || 'they'}: ${message}`).join('; '),
      fix: 'Send them as the schema of the tool requires.',
    },
    { at: mistakes[0]?.at ?? '' },
  );
}

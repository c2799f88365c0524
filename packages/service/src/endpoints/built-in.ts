import type { FlowOutcome, JsonObject, JsonSchema } from '@pindro/core';
import { ANY_EFFECT, asSent, estimateTokens, NO_EFFECT } from '@pindro/core';
import type { ToolCallRequest } from './call.js';
import type { EndpointDocument } from './document.js';
import type { ServedTool } from './served.js';

/** An endpoint that Pindro brings along. It is worded by us, switched on by the owner, and no agent's toolbox has it. */
export interface BuiltIn {
  readonly name: string;
  isOn(): boolean;
  document(): EndpointDocument;
  tools(): readonly ServedTool[];
  call(request: ToolCallRequest): Promise<FlowOutcome>;
}

/** A tool that is no flow and no server's, as it stands on a built-in endpoint. */
export interface OwnTool {
  name: string;
  title: string;
  description: string;
  input: JsonSchema;
  /** Whether it changes nothing. */
  reads: boolean;
  /** Whether a key must say that it may propose. */
  wider: boolean;
}

export function servedOwn({ name, title, description, input, reads, wider }: OwnTool): ServedTool {
  const effects = reads ? NO_EFFECT : ANY_EFFECT;
  const annotations: Record<string, boolean> = reads
    ? { readOnlyHint: true, openWorldHint: false }
    : { readOnlyHint: false, destructiveHint: !wider, idempotentHint: false, openWorldHint: !wider };
  return {
    name,
    title,
    description,
    schema: input,
    rules: {},
    seen: input as JsonObject,
    returns: null,
    annotations,
    left: [],
    worked: annotations,
    effects,
    own: { title, description },
    passed: false,
    target: { builtIn: name },
    builtIn: { wider },
    trouble: null,
    sent: { name, title, description, inputSchema: input as JsonObject, annotations: { title, ...annotations } },
    steps: 1,
    tokens: estimateTokens(asSent({ name, description, inputSchema: input as JsonObject })),
  };
}

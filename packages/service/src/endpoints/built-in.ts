import type { FlowOutcome, JsonObject, JsonSchema } from '@pindro/core';
import { ANY_EFFECT, asSent, estimateTokens, NO_EFFECT } from '@pindro/core';
import type { EndpointDocument } from './document.js';
import type { ServedTool } from './served.js';
import type { ToolCallRequest } from './tool-call-request.js';

/** A built-in endpoint. Its texts are part of the product, an owner enables it, and toolboxes cannot use it. */
export interface BuiltIn {
  readonly name: string;
  isOn(): boolean;
  document(): EndpointDocument;
  tools(): readonly ServedTool[];
  call(request: ToolCallRequest): Promise<FlowOutcome>;
}

/** A tool of a built-in endpoint that is neither a flow nor a server's tool. */
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

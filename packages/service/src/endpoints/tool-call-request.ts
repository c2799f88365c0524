import type { JsonObject, TraceContext } from '@pindro/core';
import type { Access } from '../keys/store.js';
import type { ServedTool } from './served.js';

/** A call of an exposed tool by a client. */
export interface ToolCallRequest {
  tool: ServedTool;
  given: JsonObject;
  access: Pick<Access, 'id' | 'name' | 'caller' | 'stage'>;
  session: string;
  /** The id its run gets. */
  run: string;
  endpoint: string;
  /** What the client calls itself. */
  client: string;
  /** The client's own trace, where it sent one (W3C trace context). */
  trace: TraceContext | undefined;
  /** Cancels the call, and with it the run as long as it has not been answered. */
  stop: AbortController;
}

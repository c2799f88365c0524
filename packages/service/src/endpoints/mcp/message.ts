import type { JSONRPCMessage } from '@modelcontextprotocol/sdk/types.js';
import { isObject } from '@pindro/core';

/** A JSON-RPC error (JSON-RPC 2.0, section 5.1) as thrown by the transport, with the HTTP status that goes with it. */
export class RpcFault extends Error {
  constructor(
    readonly status: number,
    readonly rpc: number,
    message: string,
    readonly id: string | number | null = null,
    readonly data?: unknown,
  ) {
    super(message);
  }

  body(): object {
    return {
      jsonrpc: '2.0',
      id: this.id,
      error: { code: this.rpc, message: this.message, ...(this.data !== undefined && { data: this.data }) },
    };
  }
}

/** Ids, methods and tokens go back and forth and are kept; none that is meant is longer. */
export const LONGEST_ID = 256;

export const INVALID_REQUEST = -32600;

/** Holds a body against JSON-RPC 2.0 as MCP uses it: one message, no batches, no null ids. @throws RpcFault */
export function readMessage(body: unknown): JSONRPCMessage {
  const refuse = (why: string, id: string | number | null = null) => new RpcFault(400, INVALID_REQUEST, why, id);
  if (Array.isArray(body))
    throw refuse('Batches are not supported in this protocol version. Send one message per request.');
  if (!isObject(body))
    throw refuse('The body is not a JSON-RPC message. Send an object with "jsonrpc", "method" and "id".');
  const id = typeof body.id === 'string' || typeof body.id === 'number' ? body.id : null;
  if (body.jsonrpc !== '2.0') throw refuse('"jsonrpc" must be "2.0"', id);
  if ('id' in body && id === null) throw refuse('"id" must be a string or a number');
  if (typeof id === 'string' && id.length > LONGEST_ID)
    throw refuse(`"id" has ${id.length} characters, and the limit is ${LONGEST_ID}`);
  if (typeof id === 'number' && !Number.isSafeInteger(id)) throw refuse('"id" must be an integer up to 2^53 - 1');
  if (typeof body.method === 'string') {
    if (body.method.length > LONGEST_ID) throw refuse('"method" is too long', id);
    if (body.params !== undefined && !isObject(body.params)) throw refuse('"params" must be an object', id);
    return body as unknown as JSONRPCMessage;
  }
  if ('method' in body) throw refuse('"method" must be a string', id);
  if (id !== null && ('result' in body || isObject(body.error))) return body as unknown as JSONRPCMessage;
  throw refuse('The body is neither a request, a notification nor a response', id);
}

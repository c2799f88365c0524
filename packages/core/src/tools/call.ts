import { PindroError } from '../errors.js';
import { isObject, type Json, type JsonObject, ownOf } from '../json.js';
import type { ArgumentRules, CredentialOwner, Ports, ToolDescription, ToolResult } from '../ports.js';
import { attribute } from '../trace/attributes.js';
import type { Caller } from '../trace/head.js';
import { traceparent } from '../trace/ids.js';
import type { Recorder } from '../trace/recorder.js';
import { mergeArguments } from './rules.js';

/** What every call of a tool needs around it. */
export interface CallContext {
  ports: Ports;
  recorder: Recorder;
  parentSpan: string;
  signal: AbortSignal;
  /** Where in the run the call stands; with the attempt it makes the idempotency key. */
  path: string;
  attempt: number;
  /** How long the step may take, in milliseconds, where that was said. */
  limit: number | null;
}

export interface ToolAnswer {
  /** The text a model reads. */
  text: string;
  /** Structured content, or the text as JSON where it is that, or null. */
  data: Json;
  content: JsonObject[];
}

/** What a model reads of a tool result: its texts, or a word on what else it holds. */
export function resultText(result: ToolResult): string {
  const texts = result.content.map((block) => {
    if (block.type === 'text') return String(block.text);
    if (block.type === 'resource' && isObject(block.resource) && typeof block.resource.text === 'string')
      return block.resource.text;
    if (block.type === 'resource_link') return `${block.name ?? 'resource'}: ${block.uri}`;
    return `(${block.type}${block.mimeType ? `, ${block.mimeType}` : ''})`;
  });
  if (texts.length > 0) return texts.join('\n');
  return result.structuredContent ? JSON.stringify(result.structuredContent) : '(nothing)';
}

function resultData(result: ToolResult, text: string): Json {
  if (result.structuredContent) return result.structuredContent;
  try {
    return JSON.parse(text) as Json;
  } catch {
    return null;
  }
}

/**
 * The arguments that an error text speaks of: by their value, else by their name.
 * @returns names, the likeliest first
 */
export function blamedArguments(args: JsonObject, text: string): string[] {
  const words = new Set(text.toLowerCase().match(/[\p{L}\p{N}_.-]*[\p{L}\p{N}]/gu) ?? []);
  const byValue = Object.entries(args).filter(
    ([, value]) => typeof value !== 'object' && typeof value !== 'boolean' && words.has(String(value).toLowerCase()),
  );
  const byName = Object.entries(args).filter(
    ([name]) =>
      words.has(name.toLowerCase()) || name.split('_').some((part) => part.length > 3 && words.has(part.toLowerCase())),
  );
  return [...new Set([...byValue, ...byName].map(([name]) => name))];
}

/**
 * Calls a tool of an attached server: merges the arguments by their rules, records the call as a span, and turns a
 * tool error into `tool_reported_error`.
 * @param whose credential goes along @throws caller_without_credential
 */
export async function callServerTool(
  server: string,
  tool: ToolDescription,
  rules: ArgumentRules,
  given: JsonObject,
  context: CallContext,
  whose: CredentialOwner = 'workspace',
): Promise<ToolAnswer> {
  const { recorder } = context;
  const span = recorder.span('tool', `execute_tool ${tool.name}`, context.parentSpan, {
    input: given,
    attributes: {
      [attribute.operation]: 'execute_tool',
      [attribute.tool]: tool.name,
      [attribute.mcpMethod]: 'tools/call',
      [attribute.server]: server,
      ...(whose === 'caller' && { [attribute.credential]: "the caller's own" }),
    },
  });
  let merged: JsonObject = given;
  try {
    merged = mergeArguments(tool, rules, given);
    const credential = whose === 'caller' ? ownCredential(server, recorder.head.caller) : undefined;
    if (merged !== given) span.set({ [attribute.sent]: merged });
    // The outside may do something that cannot be undone: what led here must be on disk first.
    await recorder.commit();
    const result = await context.ports.toolServers.call(server, tool.name, merged, {
      signal: context.signal,
      traceparent: traceparent(recorder.head.traceId, span.id),
      idempotencyKey: `${recorder.head.id}/${context.path}/${context.attempt}`,
      ...(credential !== undefined && { credential }),
      // Whoever gave the step its time gave it to what it calls.
      ...(context.limit !== null && { limit: context.limit }),
      onProgress: ({ progress, total = null, message = '' }) =>
        recorder.live({ kind: 'progress', path: context.path, tool: tool.name, progress, total, message }),
    });
    const text = recorder.masker.text(resultText(result));
    if (result.isError) {
      const blamed = blamedArguments(merged, text);
      throw new PindroError(
        'tool_reported_error',
        { tool: `${server}.${tool.name}`, why: text },
        {
          details: {
            ...{ server, tool: tool.name, arguments: merged, blamed },
            ...(result.structuredContent && { data: result.structuredContent }),
          },
        },
      );
    }
    span.done({
      content: result.content,
      ...(result.structuredContent && { structuredContent: result.structuredContent }),
    });
    return { text, data: resultData(result, text), content: result.content };
  } catch (error) {
    const failure = context.signal.aborted ? context.signal.reason : error;
    span.fail(failure);
    throw failure;
  }
}

function ownCredential(server: string, { id, credentials }: Caller): string {
  const credential = ownOf(credentials, server);
  if (credential === undefined)
    throw new PindroError('caller_without_credential', { caller: id, server }, { details: { server, caller: id } });
  return credential;
}

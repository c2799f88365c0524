import {
  type Audience,
  asJson,
  type ErrorRecord,
  type FlowOutcome,
  failureText,
  isObject,
  type Json,
  type JsonObject,
  MOST_SENT,
  ownOf,
  PindroError,
  type Receipt,
  receiptWords,
  sentence,
  validate,
} from '@pindro/core';
import type { ServedTool } from '../served.js';

const isText = (value: unknown) => typeof value === 'string';
/** What each kind of content block must have (MCP 2025-11-25, server/tools). */
const BLOCKS: Record<string, (block: JsonObject) => boolean> = {
  text: (block) => isText(block.text),
  image: (block) => isText(block.data) && isText(block.mimeType),
  audio: (block) => isText(block.data) && isText(block.mimeType),
  resource_link: (block) => isText(block.uri) && isText(block.name),
  resource: ({ resource }) =>
    isObject(resource) && isText(resource.uri) && (isText(resource.text) || isText(resource.blob)),
};
const isBlock = (value: Json): boolean => isObject(value) && (ownOf(BLOCKS, String(value.type))?.(value) ?? false);

/** Whether a result is MCP content: `content` is a list of MCP blocks, with nothing but `data` in addition. */
function isContent(result: Json): result is { content: JsonObject[]; data?: Json } {
  return (
    isObject(result) &&
    Array.isArray(result.content) &&
    result.content.every(isBlock) &&
    Object.keys(result).every((key) => key === 'content' || key === 'data')
  );
}

/**
 * A result as MCP carries it (server/tools): text for the model, and the same as data where it is an object.
 * @throws result_too_large, result_breaks_schema
 */
export function success(tool: ServedTool, result: Json): JsonObject {
  const text = typeof result === 'string' ? result : JSON.stringify(result);
  if (text.length > MOST_SENT)
    throw new PindroError('result_too_large', {
      tool: tool.name,
      size: `${(text.length / 1024 / 1024).toFixed(0)} MiB`,
    });
  if (!isContent(result))
    return promised(tool, {
      content: [{ type: 'text', text }],
      ...(isObject(result) && { structuredContent: result }),
    });
  return promised(tool, { content: result.content, ...(isObject(result.data) && { structuredContent: result.data }) });
}

/**
 * An agent's receipt: as data for programs, and as text if something failed, waits or was claimed. The text comes
 * first, because the answer may contradict it.
 */
export function withReceipt(answer: JsonObject, receipt: Receipt | undefined): JsonObject {
  if (!receipt) return answer;
  const words = receiptWords(receipt);
  const content = answer.content as JsonObject[];
  return {
    ...answer,
    ...(words && { content: [{ type: 'text', text: words }, ...content] }),
    _meta: { ...(answer._meta as JsonObject | undefined), 'pindro/receipt': asJson(receipt) },
  };
}

/** A client refuses a result that is not what the list promised, and could not tell anybody why. */
function promised(tool: ServedTool, answer: JsonObject): JsonObject {
  if (!tool.returns) return answer;
  const data = answer.structuredContent as JsonObject | undefined;
  const why = data ? sentence(validate(tool.returns, data)) : 'it has no data';
  if (why) throw new PindroError('result_breaks_schema', { tool: tool.name, why });
  return answer;
}

/** The run waits for somebody or a time: the client is notified immediately, with the address of the run. */
export function underWay({ run, state, waitsFor }: FlowOutcome, url: string): JsonObject {
  const waits_for = waitsFor?.what ?? 'The run continues automatically';
  return {
    content: [{ type: 'text', text: `The run is not finished. ${waits_for}.\nRun: ${url}` }],
    structuredContent: { run, state, waits_for },
    _meta: { 'pindro/run': run },
  };
}

/** An error as whoever called can read it, with where a person can see more. */
export function failure(error: ErrorRecord, url: string | null, run: string | null, audience: Audience): JsonObject {
  const text = `${failureText(error, audience)}${url ? `\nRun: ${url}` : ''}`;
  return {
    content: [{ type: 'text', text }],
    ...(isObject(error.details?.data) && { structuredContent: error.details.data }),
    isError: true,
    _meta: { 'pindro/code': error.code, ...(run && { 'pindro/run': run }) },
  };
}

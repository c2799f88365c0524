import type { Response } from 'express';
import type { Tool } from '../choose.js';
import type { ChatMessage } from '../think.js';
import type { Said } from './wire.js';
import { type ExchangeList, keyIn, list, pieces, type Refused, tokens } from './wire.js';

interface Block {
  type: string;
  text?: string;
  id?: string;
  name?: string;
  input?: Record<string, unknown>;
  tool_use_id?: string;
  content?: string | Block[];
  is_error?: boolean;
  signature?: string;
}
interface Body {
  model?: string;
  system?: string;
  max_tokens?: number;
  messages?: { role: string; content: string | Block[] }[];
  tools?: { name: string; description?: string; input_schema?: Tool['parameters'] }[];
  tool_choice?: { type: string; name?: string };
  stream?: boolean;
}
const TYPES: Record<Refused, string> = {
  ...{ key: 'authentication_error', unpaid: 'billing_error', busy: 'rate_limit_error', model: 'not_found_error' },
  ...{ full: 'invalid_request_error', fault: 'api_error', request: 'invalid_request_error' },
};
const ENDS = { answer: 'end_turn', calls: 'tool_use', length: 'max_tokens', refusal: 'refusal', paused: 'pause_turn' };
const SIGNED = 'signed-by-the-stand-in';

const textOf = (content: string | Block[] | undefined): string =>
  typeof content === 'string' ? content : (content ?? []).map(({ text = '' }) => text).join('');

/** @throws Error where a turn is not as the format wants it */
function turns({ role, content }: { role: string; content: string | Block[] }): ChatMessage[] {
  const blocks = typeof content === 'string' ? [{ type: 'text', text: content } as Block] : content;
  if (blocks.length === 0) throw new Error('messages: content must not be empty');
  if (role === 'assistant') {
    const calls = blocks.filter(({ type }) => type === 'tool_use');
    const thought = blocks.find(({ type }) => type === 'thinking');
    if (thought && thought.signature !== SIGNED) throw new Error('messages: thinking must come back as it was given');
    const tool_calls = calls.map(({ id = '', name = '', input = {} }) => ({
      ...{ id, function: { name, arguments: JSON.stringify(input) } },
    }));
    return [
      { role, content: textOf(blocks.filter(({ type }) => type === 'text')), ...(calls.length > 0 && { tool_calls }) },
    ];
  }
  const results = blocks.filter(({ type }) => type === 'tool_result');
  const text = textOf(blocks.filter(({ type }) => type === 'text'));
  return [
    ...results.map(({ tool_use_id = '', content: result, is_error }) => ({
      ...{ role: 'tool' as const, tool_call_id: tool_use_id },
      content: `${is_error ? 'Error: ' : ''}${textOf(result)}`,
    })),
    ...(text ? [{ role: 'user' as const, content: text }] : []),
  ];
}

export const messages: ExchangeList = {
  name: 'messages',
  path: '/messages',
  key: (request) => keyIn.header(request, 'x-api-key') ?? keyIn.bearer(request),

  read({ body: given }) {
    const body = given as Body;
    if (!Number.isInteger(body.max_tokens)) throw new Error('max_tokens: field required');
    const told = list<{ role: string; content: string | Block[] }>(body.messages, 'messages');
    const roles = told.map(({ role }) => role);
    if (roles.some((role) => role !== 'user' && role !== 'assistant')) throw new Error('messages: unknown role');
    if (roles.some((role, index) => index > 0 && role === roles[index - 1]))
      throw new Error('messages: roles must alternate');
    const tools = (body.tools ?? []).map(({ name, description = '', input_schema: parameters = {} }) => ({
      ...{ name, description, parameters },
    }));
    const { type, name = null } = body.tool_choice ?? { type: 'auto' };
    const system = body.system ? [{ role: 'system' as const, content: body.system }] : [];
    return {
      ...{ model: body.model ?? 'house', messages: [...system, ...told.flatMap(turns)], tools, schema: null },
      ...{ forced: name ?? (type === 'any' ? 'any' : null), stream: body.stream === true },
      usage: { input: tokens(body.messages) + tokens(body.tools) + tokens(body.system), output: 0 },
    };
  },

  write(response, asked, said) {
    const content = blocksOf(said, asked.messages.length);
    const usage = {
      ...{ input_tokens: asked.usage.input, output_tokens: asked.usage.output },
      ...{ cache_creation_input_tokens: 0, cache_read_input_tokens: 0, service_tier: 'standard' },
    };
    const head = { id: `msg_${asked.messages.length}`, type: 'message', role: 'assistant', model: asked.model };
    if (asked.stream) return stream(response, head, content, said, usage);
    response.json({
      ...head,
      content: content.map(({ written: _, ...block }) => block),
      stop_reason: ENDS[said.end],
      stop_sequence: null,
      usage,
    });
  },

  error: (kind, message) => ({
    type: 'error',
    error: { type: TYPES[kind], message: kind === 'full' ? `prompt is too long: ${message}` : message },
  }),
};

function blocksOf(said: Said, turn: number): (Record<string, unknown> & { type: string; written?: string })[] {
  return [
    ...(said.thought ? [{ type: 'thinking', thinking: said.thought, signature: SIGNED }] : []),
    ...(said.text ? [{ type: 'text', text: said.text }] : []),
    ...said.calls.map(({ name, arguments: input, written }, index) => ({
      ...{ type: 'tool_use', id: `toolu_${turn}_${index}`, name, input, written },
    })),
  ];
}

function stream(
  response: Response,
  head: object,
  content: ReturnType<typeof blocksOf>,
  said: Said,
  usage: { input_tokens: number; output_tokens: number },
): void {
  response.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-cache' });
  const send = (type: string, rest: object) =>
    response.write(`event: ${type}\ndata: ${JSON.stringify({ type, ...rest })}\n\n`);
  send('message_start', {
    message: { ...head, content: [], stop_reason: null, stop_sequence: null, usage: { ...usage, output_tokens: 1 } },
  });
  send('ping', {});
  for (const [index, { written, ...block }] of content.entries()) {
    const delta = (type: string, name: string, text: string) => {
      for (const part of pieces(text)) send('content_block_delta', { index, delta: { type, [name]: part } });
    };
    if (block.type === 'thinking') {
      send('content_block_start', { index, content_block: { type: 'thinking', thinking: '', signature: '' } });
      delta('thinking_delta', 'thinking', String(block.thinking));
      send('content_block_delta', { index, delta: { type: 'signature_delta', signature: SIGNED } });
    } else if (block.type === 'text') {
      send('content_block_start', { index, content_block: { type: 'text', text: '' } });
      delta('text_delta', 'text', String(block.text));
    } else {
      send('content_block_start', { index, content_block: { ...block, input: {} } });
      delta('input_json_delta', 'partial_json', written ?? '');
    }
    send('content_block_stop', { index });
  }
  if (said.cut) return void response.destroy();
  const { output_tokens } = usage;
  send('message_delta', { delta: { stop_reason: ENDS[said.end], stop_sequence: null }, usage: { output_tokens } });
  send('message_stop', {});
  response.end();
}

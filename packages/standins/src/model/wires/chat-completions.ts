import type { Response } from 'express';
import type { Tool } from '../choose.js';
import type { ChatMessage } from '../think.js';
import type { Said } from './wire.js';
import { type Asked, type ExchangeList, keyIn, list, pieces, type Refused, tokens } from './wire.js';

interface Body {
  model?: string;
  messages?: ChatMessage[];
  tools?: { function: { name: string; description?: string; parameters?: Tool['parameters'] } }[];
  tool_choice?: string | { function: { name: string } };
  stream?: boolean;
  response_format?: { type: string; json_schema?: { schema?: Tool['parameters'] } };
}
const CODES: Partial<Record<Refused, string>> = {
  ...{
    unpaid: 'insufficient_quota',
    model: 'model_not_found',
    full: 'context_length_exceeded',
    busy: 'rate_limit_exceeded',
  },
};
const ENDS = { answer: 'stop', calls: 'tool_calls', length: 'length', refusal: 'content_filter', paused: 'stop' };

const callsOf = (said: Said, turn: number) =>
  said.calls.map(({ name, written }, index) => ({
    index,
    id: `call_${turn}_${index}`,
    type: 'function',
    function: { name, arguments: written },
  }));

/** Text of a message, also from parts next to images. */
const textOf = (content: unknown): string =>
  Array.isArray(content) ? content.map((part: { text?: string }) => part.text ?? '').join('') : String(content ?? '');

export const chatCompletions: ExchangeList = {
  name: 'chat-completions',
  path: '/chat/completions',
  key: keyIn.bearer,

  read({ body: given }) {
    const body = given as Body;
    const messages = list<ChatMessage>(body.messages, 'messages').map((one) => ({
      ...one,
      content: textOf(one.content),
    }));
    const tools = (body.tools ?? []).map(({ function: { name, description = '', parameters = {} } }) => ({
      ...{ name, description, parameters },
    }));
    const choice = body.tool_choice;
    return {
      ...{ model: body.model ?? 'house', messages, tools, stream: body.stream === true },
      schema: body.response_format?.json_schema?.schema ?? null,
      forced: typeof choice === 'object' ? choice.function.name : choice === 'required' ? 'any' : null,
      usage: { input: tokens(body.messages) + tokens(body.tools), output: 0 },
    };
  },

  write(response, asked, said) {
    const { input, output } = asked.usage;
    const usage = {
      ...{ prompt_tokens: input, completion_tokens: output, total_tokens: input + output },
      prompt_tokens_details: { cached_tokens: 0, audio_tokens: 0 },
      completion_tokens_details: { reasoning_tokens: tokens(said.thought) - 1, audio_tokens: 0 },
    };
    const head = { id: `chat-${asked.messages.length}`, created: Math.floor(Date.now() / 1000), model: asked.model };
    if (asked.stream) return stream(response, head, asked, said, usage);
    const calls = callsOf(said, asked.messages.length);
    const message = {
      role: 'assistant',
      content: said.text || null,
      ...(said.thought && { reasoning_content: said.thought }),
      ...(calls.length > 0 && { tool_calls: calls }),
    };
    const choices = [{ index: 0, finish_reason: ENDS[said.end], message }];
    response.json({ ...head, object: 'chat.completion', choices, usage });
  },

  error: (kind, message) => ({ error: { message, type: 'error', code: CODES[kind] ?? null } }),
};

function stream(response: Response, head: object, asked: Asked, said: Said, usage: object): void {
  response.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-cache' });
  const write = (chunk: object) =>
    response.write(`data: ${JSON.stringify({ ...head, object: 'chat.completion.chunk', ...chunk })}\n\n`);
  const send = (delta: object, finish_reason: string | null = null) =>
    write({ choices: [{ index: 0, delta, finish_reason }] });
  send({ role: 'assistant' });
  if (said.thought) send({ reasoning_content: said.thought });
  for (const content of pieces(said.text)) send({ content });
  for (const { index, id, type, function: made } of callsOf(said, asked.messages.length)) {
    send({ tool_calls: [{ index, id, type, function: { name: made.name, arguments: '' } }] });
    for (const part of pieces(made.arguments)) send({ tool_calls: [{ index, function: { arguments: part } }] });
  }
  if (said.cut) return void response.destroy();
  send({}, ENDS[said.end]);
  write({ choices: [], usage });
  response.end('data: [DONE]\n\n');
}

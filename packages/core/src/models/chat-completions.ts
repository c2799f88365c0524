import { createParser } from 'eventsource-parser';
import { isObject, type Json, type JsonObject } from '../json.js';
import type { Dialect, ModelAnswer, ToolCall, Turn } from './dialect.js';

interface Delta {
  content?: string | null;
  tool_calls?: { index?: number; id?: string; function?: { name?: string; arguments?: string } }[];
}
interface Chunk {
  choices?: { delta?: Delta; message?: Delta; finish_reason?: string | null }[];
  usage?: { prompt_tokens?: number; completion_tokens?: number } | null;
  error?: { message?: string };
}

function message(turn: Turn): JsonObject {
  if (turn.role === 'tool')
    return { role: 'tool', tool_call_id: turn.call, content: turn.failed ? `Error: ${turn.text}` : turn.text };
  if (turn.role !== 'assistant' || turn.calls.length === 0) return { role: turn.role, content: turn.text };
  const calls = turn.calls.map((call) => ({
    id: call.id,
    type: 'function',
    function: { name: call.name, arguments: call.unreadable ?? JSON.stringify(call.arguments) },
  }));
  return { role: 'assistant', content: turn.text || null, tool_calls: calls };
}

function readArguments(text: string): Pick<ToolCall, 'arguments' | 'unreadable'> {
  if (text.trim() === '') return { arguments: {} };
  try {
    const value: unknown = JSON.parse(text);
    if (isObject(value)) return { arguments: value };
  } catch {
    // told to the model below, which can write them again
  }
  return { arguments: {}, unreadable: text };
}

/** The wire format `POST /chat/completions`, streamed as server-sent events. */
export const chatCompletions: Dialect = {
  name: 'chat-completions',

  request(connection, turns, tools, schema) {
    const offered = tools.map((tool) => ({
      type: 'function',
      function: { name: tool.name, description: tool.description, parameters: tool.schema },
    }));
    const body: Json = {
      ...connection.settings,
      model: connection.model,
      messages: turns.map(message),
      stream: true,
      stream_options: { include_usage: true },
      ...(offered.length > 0 && { tools: offered }),
      ...(schema && { response_format: { type: 'json_schema', json_schema: { name: 'answer', schema } } }),
    };
    return { path: '/chat/completions', body };
  },

  reader() {
    const calls: { id: string; name: string; text: string }[] = [];
    const answer: ModelAnswer = { text: '', calls: [], usage: { input: 0, output: 0 }, stop: '' };
    let fresh = '';
    let chunks = 0;
    let whole = '';

    const take = (chunk: Chunk) => {
      if (chunk.error) throw new SyntaxError(chunk.error.message ?? 'the model sent an error');
      const choice = chunk.choices?.[0];
      const delta = choice?.delta ?? choice?.message;
      if (!choice && !chunk.usage) throw new SyntaxError('it has neither choices nor usage');
      chunks++;
      if (delta?.content) {
        answer.text += delta.content;
        fresh += delta.content;
      }
      for (const [position, part] of (delta?.tool_calls ?? []).entries()) {
        const call = (calls[part.index ?? position] ??= { id: '', name: '', text: '' });
        if (part.id) call.id = part.id;
        call.name += part.function?.name ?? '';
        call.text += part.function?.arguments ?? '';
      }
      if (choice?.finish_reason) answer.stop = choice.finish_reason;
      if (chunk.usage)
        answer.usage = { input: chunk.usage.prompt_tokens ?? 0, output: chunk.usage.completion_tokens ?? 0 };
    };
    const parser = createParser({
      onEvent: ({ data }) => {
        if (data !== '[DONE]') take(JSON.parse(data) as Chunk);
      },
    });

    return {
      push(piece) {
        if (chunks === 0) whole += piece;
        fresh = '';
        parser.feed(piece);
        return fresh;
      },
      end() {
        // Some servers answer in one JSON document even when a stream was asked for.
        if (chunks === 0) {
          if (whole.trim() === '') throw new SyntaxError('it is empty');
          if (!whole.trimStart().startsWith('{')) throw new SyntaxError('it is neither events nor JSON');
          take(JSON.parse(whole) as Chunk);
        }
        if (answer.stop === '' && answer.text === '' && calls.length === 0)
          throw new SyntaxError('it broke off before it said anything');
        answer.calls = calls
          .filter(Boolean)
          .map((call, index) => ({ id: call.id || `call_${index}`, name: call.name, ...readArguments(call.text) }));
        return answer;
      },
    };
  },
};

import { createServer } from 'node:http';
import express, { type Response } from 'express';
import { listen } from '../listen.js';
import type { Tool } from './choose.js';
import { type ChatMessage, type Thought, think, thinkInSchema } from './think.js';

export interface Model {
  /** Base address of the wire format. */
  url: string;
  close(): Promise<void>;
}

interface Body {
  model?: string;
  messages?: ChatMessage[];
  tools?: { function: { name: string; description?: string; parameters?: Tool['parameters'] } }[];
  stream?: boolean;
  /** Asks for an answer that is JSON of a schema. */
  response_format?: { type: string; json_schema?: { schema?: Tool['parameters'] } };
}

const PIECE = 12;
const tokens = (text: string) => Math.ceil(text.length / 4);

/** A language model that speaks the chat-completions wire format and always answers the same to the same. */
export async function startModel(options: { port?: number; key?: string } = {}): Promise<Model> {
  const app = express();
  app.post('/v1/chat/completions', express.json({ limit: '8mb' }), (request, response) => {
    if (options.key && request.headers.authorization !== `Bearer ${options.key}`)
      return void response.status(401).json({ error: { message: 'a valid key is needed' } });
    const body = request.body as Body;
    if (!Array.isArray(body.messages) || body.messages.length === 0)
      return void response
        .status(400)
        .json({ error: { message: '"messages" must be a list with at least one message' } });
    const offered = (body.tools ?? []).map(({ function: { name, description = '', parameters = {} } }) => ({
      name,
      description,
      parameters,
    }));
    const schema = body.response_format?.json_schema?.schema;
    const thought = schema ? thinkInSchema(body.messages, schema) : think(body.messages, offered);
    const usage = {
      prompt_tokens: tokens(JSON.stringify(body.messages) + JSON.stringify(body.tools ?? '')),
      completion_tokens: tokens(JSON.stringify(thought)),
    };
    const head = {
      id: `chat-${body.messages.length}`,
      created: Math.floor(Date.now() / 1000),
      model: body.model ?? 'house',
    };
    if (body.stream) return stream(response, head, thought, usage);
    const finish_reason = thought.calls.length > 0 ? 'tool_calls' : 'stop';
    response.json({
      ...head,
      object: 'chat.completion',
      choices: [
        {
          index: 0,
          finish_reason,
          message: {
            role: 'assistant',
            content: thought.text || null,
            ...(thought.calls.length > 0 && { tool_calls: callsOf(thought, body.messages.length) }),
          },
        },
      ],
      usage,
    });
  });
  const http = createServer(app);
  const port = await listen(http, options.port ?? 0);
  return {
    url: `http://127.0.0.1:${port}/v1`,
    close: async () => {
      http.closeAllConnections();
      await new Promise((resolve) => http.close(resolve));
    },
  };
}

const callsOf = (thought: Thought, turn: number) =>
  thought.calls.map((call, index) => ({
    index,
    id: `call_${turn}_${index}`,
    type: 'function',
    function: { name: call.name, arguments: JSON.stringify(call.arguments) },
  }));

function stream(
  response: Response,
  head: { id: string; created: number; model: string },
  thought: Thought,
  usage: object,
): void {
  response.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-cache' });
  const send = (delta: object, finish_reason: string | null = null) =>
    response.write(
      `data: ${JSON.stringify({ ...head, object: 'chat.completion.chunk', choices: [{ index: 0, delta, finish_reason }] })}\n\n`,
    );
  send({ role: 'assistant' });
  for (let at = 0; at < thought.text.length; at += PIECE) send({ content: thought.text.slice(at, at + PIECE) });
  const turn = Number(head.id.split('-')[1]);
  for (const call of callsOf(thought, turn)) {
    const text = call.function.arguments;
    send({ tool_calls: [{ ...call, function: { name: call.function.name, arguments: '' } }] });
    for (let at = 0; at < text.length; at += PIECE)
      send({ tool_calls: [{ index: call.index, function: { arguments: text.slice(at, at + PIECE) } }] });
  }
  send({}, thought.calls.length > 0 ? 'tool_calls' : 'stop');
  response.write(`data: ${JSON.stringify({ ...head, object: 'chat.completion.chunk', choices: [], usage })}\n\n`);
  response.end('data: [DONE]\n\n');
}

import { createServer } from 'node:http';
import express, { type Request, type Response } from 'express';
import { listen } from '../listen.js';
import { FAULTS, type Fault, faultOf, saidOf } from './faults.js';
import { callsIn, type Thought, think, thinkInSchema } from './think.js';
import { chatCompletions } from './wires/chat-completions.js';
import { generateContent } from './wires/generate-content.js';
import { messages } from './wires/messages.js';
import { type Asked, type ExchangeList, type Refused, STATUS, tokens } from './wires/wire.js';

export interface Model {
  /** Base address of every wire format. */
  url: string;
  /** What it was asked, as it came, the oldest first. */
  asked: { wire: string; body: unknown }[];
  close(): Promise<void>;
}

const WIRES = [chatCompletions, messages, generateContent];
const MODELS = ['house', ...Object.keys(FAULTS).map((name) => `house-${name}`)];

/**
 * A language model with three wire formats and deterministic answers. Its faults are chosen by the model's name:
 * `house-busy` is overloaded.
 * @param options.wants a required header
 * @param options.context context window in tokens; unlimited if omitted
 */
export async function startModel(
  options: { port?: number; key?: string; context?: number; wants?: string } = {},
): Promise<Model> {
  const app = express();
  const asked: Model['asked'] = [];
  const counts = new Map<string, number>();
  const isKnown = (wire: ExchangeList, request: Request) => !options.key || wire.key(request) === options.key;
  app.get('/v1/models', (request, response) => {
    if (!WIRES.some((wire) => isKnown(wire, request)))
      return void response.status(401).json(chatCompletions.error('key', 'a valid key is needed'));
    // Each format reads its own list.
    response.json({ data: MODELS.map((id) => ({ id })), models: MODELS.map((id) => ({ name: `models/${id}` })) });
  });
  for (const wire of WIRES)
    app.post(`/v1${wire.path}`, express.json({ limit: '64mb' }), async (request, response) => {
      const refuse = (kind: Refused, words: string) => void response.status(STATUS[kind]).json(wire.error(kind, words));
      if (!isKnown(wire, request)) return refuse('key', 'a valid key is needed');
      asked.push({ wire: wire.name, body: request.body });
      if (options.wants && !request.headers[options.wants])
        return refuse('request', `${options.wants}: header is required`);
      let question: Asked;
      try {
        question = wire.read(request);
      } catch (error) {
        return refuse('request', (error as Error).message);
      }
      const { usage, model } = question;
      if (options.context !== undefined && usage.input > options.context)
        return refuse('full', `${usage.input} tokens > ${options.context} maximum`);
      const fault = faultOf(model);
      if (fault?.slow) await new Promise((resolve) => setTimeout(resolve, fault.slow));
      const count = (counts.get(model) ?? 0) + 1;
      counts.set(model, count);
      if (fault?.refuses && (!fault.refuses.everySecond || count % 2 === 1)) return refuseSo(fault, wire, response);
      if (fault?.unsupported && JSON.stringify(request.body).includes(`"${fault.unsupported}":`))
        return refuse('request', `Unsupported parameter: '${fault.unsupported}' is not supported with this model.`);
      if (fault?.raw !== undefined)
        return void response.type(fault.raw.startsWith('<') ? 'html' : 'text/event-stream').send(fault.raw);
      const since = question.messages.slice(question.messages.findLastIndex(({ role }) => role === 'user') + 1);
      const said = saidOf(fault, thoughtOf(question), callsIn(since), count);
      usage.output = tokens(said.text) + tokens(said.calls);
      wire.write(response, question, said);
    });
  const http = createServer(app);
  const port = await listen(http, options.port ?? 0);
  return {
    ...{ url: `http://127.0.0.1:${port}/v1`, asked },
    close: async () => {
      http.closeAllConnections();
      await new Promise((resolve) => http.close(resolve));
    },
  };
}

function refuseSo({ refuses }: Fault, wire: ExchangeList, response: Response): void {
  const { kind, words, after, inStream } = refuses!;
  if (inStream) {
    const event = JSON.stringify(wire.error(kind, words));
    return void response.type('text/event-stream').send(`event: error\ndata: ${event}\n\n`);
  }
  if (after !== undefined) response.setHeader('retry-after', after);
  response.status(STATUS[kind]).json(wire.error(kind, words));
}

function thoughtOf({ messages: told, tools, schema, forced }: Asked): Thought {
  if (schema) return thinkInSchema(told, schema);
  const named = forced === null || forced === 'any' ? null : tools.find(({ name }) => name === forced);
  if (named) {
    const values = JSON.parse(thinkInSchema(told, named.parameters).text) as Record<string, unknown>;
    return { text: '', calls: [{ name: named.name, arguments: values }] };
  }
  return think(told, tools);
}

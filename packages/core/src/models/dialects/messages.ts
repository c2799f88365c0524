import { asJson, isObject, type Json, type JsonObject } from '../../json/json.js';
import type { AnswerEnd, Dialect, Picture, Question, Turn } from '../dialect.js';
import { fitSchema } from '../schemas.js';
import { count, readAnswer, readArguments, requireSomething } from '../stream.js';
import { idsIn } from './chat-completions.js';

const NAME = 'messages';
/** The format wants to know how long an answer may be. */
const LONGEST = 4096;
/** How many tokens a model may think for, by effort; more than that is left for what it says. */
const THOUGHT = { low: 2048, medium: 8192, high: 24_576 };
const ENDS: Record<string, AnswerEnd> = {
  tool_use: 'calls',
  max_tokens: 'length',
  model_context_window_exceeded: 'length',
  refusal: 'refusal',
  pause_turn: 'paused',
};
/** An answer in a schema is asked for as the arguments of a tool, which every server of the format knows. */
const ANSWER = 'answer';

const picture = ({ type, data }: Picture): JsonObject => ({
  type: 'image',
  source: { type: 'base64', media_type: type, data },
});

function blocks(turn: Turn): JsonObject[] {
  const text = turn.text ? [{ type: 'text', text: turn.text }] : [];
  if (turn.role === 'tool') {
    const { call, failed, pictures = [] } = turn;
    const content = [...text, ...pictures.map(picture)];
    return [{ type: 'tool_result', tool_use_id: call, content, ...(failed && { is_error: true }) }];
  }
  if (turn.role !== 'assistant') return text;
  const kept = turn.reasoning?.kept?.dialect === NAME ? (turn.reasoning.kept.parts as JsonObject[]) : [];
  const calls = turn.calls.map(({ id, name, arguments: input }) => ({ type: 'tool_use', id, name, input }));
  return kept.some(({ type }) => type === 'tool_use' || type === 'text')
    ? inPlace(kept, calls)
    : [...kept, ...text, ...calls];
}

/** The parts of a turn as they came, thoughts between calls among them, with the calls as they are now. */
function inPlace(kept: readonly JsonObject[], calls: readonly JsonObject[]): JsonObject[] {
  const left = new Map(calls.map((call) => [call.id, call]));
  const parts = kept.flatMap((part): JsonObject[] => {
    if (part.type !== 'tool_use') return [part];
    const call = left.get(part.id!);
    left.delete(part.id!);
    return call ? [call] : [];
  });
  return [...parts, ...left.values()];
}

/** Turns of one side stand together, and none is empty. */
function conversation(turns: readonly Turn[]): JsonObject[] {
  const out: { role: string; content: JsonObject[] }[] = [];
  for (const turn of turns) {
    if (turn.role === 'system') continue;
    const content = blocks(turn);
    if (content.length === 0) continue;
    const role = turn.role === 'assistant' ? 'assistant' : 'user';
    const last = out.at(-1);
    if (last?.role === role) last.content.push(...content);
    else out.push({ role, content });
  }
  return asJson(out);
}

const choiceOf = (choice: Question['choice']): JsonObject =>
  typeof choice !== 'string' ? { type: 'tool', name: choice.tool } : { type: choice === 'required' ? 'any' : choice };

/** The wire format `POST /messages`, streamed as server-sent events. */
export const messages: Dialect = {
  name: NAME,
  key: 'in the header x-api-key',

  request({ connection, settings, turns, tools, choice, schema }) {
    const { temperature, max_tokens = LONGEST, effort, stop, stream = true, body } = settings;
    const system = turns.flatMap((turn) => (turn.role === 'system' ? [turn.text] : [])).join('\n\n');
    const offered = tools.map(({ name, description, schema: input_schema }) => ({ name, description, input_schema }));
    if (schema)
      offered.push({ name: ANSWER, description: 'Gives the answer.', input_schema: messages.schema(schema).schema });
    const chosen = schema ? { tool: ANSWER } : choice;
    // Who thinks may not be made to call a tool, and varies as it likes.
    const thinks = effort !== undefined && chosen === 'auto';
    return {
      path: '/messages',
      body: {
        ...(temperature !== undefined && !thinks && { temperature: Math.min(1, temperature) }),
        ...(stop && { stop_sequences: stop }),
        ...(thinks && { thinking: { type: 'enabled', budget_tokens: THOUGHT[effort] } }),
        ...body,
        model: connection.model,
        max_tokens: thinks ? Math.max(max_tokens, LONGEST) + THOUGHT[effort] : max_tokens,
        ...(system && { system }),
        messages: conversation(turns),
        stream,
        ...(offered.length > 0 && { tools: asJson(offered) }),
        ...(offered.length > 0 && chosen !== 'auto' && { tool_choice: choiceOf(chosen) }),
      },
    };
  },

  reader() {
    const parts: JsonObject[] = [];
    const usage = { input: 0, output: 0, cached: 0 };
    let stop = '';
    let words = '';
    const noteUsage = (told: Json | undefined) => {
      if (!isObject(told)) return;
      const cached = count(told.cache_read_input_tokens);
      const read = count(told.input_tokens) + cached + count(told.cache_creation_input_tokens);
      if (read > 0) Object.assign(usage, { input: read, cached });
      usage.output = count(told.output_tokens) || usage.output;
    };
    const block = (at: Json | undefined): JsonObject => {
      const found = parts[Number(at)];
      if (!found) throw new SyntaxError('a block continues that never started');
      return found;
    };
    return readAnswer({
      take(event) {
        switch (event.type) {
          case 'message':
            // The whole answer at once.
            parts.push(...(Array.isArray(event.content) ? event.content.filter(isObject) : []));
            stop = String(event.stop_reason ?? '');
            noteUsage(event.usage);
            return textIn(parts);
          case 'message_start':
            noteUsage(isObject(event.message) ? event.message.usage : undefined);
            return '';
          case 'content_block_start': {
            const begun: JsonObject = isObject(event.content_block) ? { ...event.content_block } : {};
            if (begun.type === 'tool_use' || begun.type === 'server_tool_use') begun.written = '';
            parts[Number(event.index)] = begun;
            return typeof begun.text === 'string' ? begun.text : '';
          }
          case 'content_block_delta':
            return grow(block(event.index), isObject(event.delta) ? event.delta : {});
          case 'message_delta':
            if (isObject(event.delta) && typeof event.delta.stop_reason === 'string') stop = event.delta.stop_reason;
            if (isObject(event.delta) && isObject(event.delta.stop_details))
              words = String(event.delta.stop_details.explanation ?? '');
            noteUsage(event.usage);
            return '';
          case 'content_block_stop':
          case 'message_stop':
          case 'ping':
            return '';
          default:
            if (typeof event.type !== 'string') throw new SyntaxError('the event has no "type"');
            return '';
        }
      },
      finish() {
        const all = parts.filter(Boolean);
        const calls = all
          .filter(({ type }) => type === 'tool_use')
          .map(({ id, name, input, written }, index) => ({
            ...{ id: String(id ?? `call_${index}`), name: String(name ?? '') },
            ...(typeof written === 'string' && written !== '' ? readArguments(written) : givenArguments(input)),
          }));
        const answered = calls.find(({ name }) => name === ANSWER);
        const text = textIn(all) || words;
        const thinks = all.filter(({ type }) => type === 'thinking' || type === 'redacted_thinking');
        const thought = thinks.map(({ thinking }) => String(thinking ?? '')).join('\n');
        const end = ENDS[stop] ?? (calls.length > 0 ? 'calls' : 'answer');
        const kept = thinks.length > 0 || end === 'paused' ? inOrder(all, calls) : [];
        const base = {
          usage,
          stop,
          ...(kept.length > 0 && { reasoning: { text: thought, kept: { dialect: NAME, parts: kept } } }),
        };
        // What was asked for in a schema is text like any other.
        if (answered && calls.length === 1 && answered.unreadable === undefined)
          return {
            ...base,
            text: JSON.stringify(answered.arguments),
            calls: [],
            end: end === 'length' ? end : 'answer',
          };
        const answer = { ...base, text, calls, end };
        requireSomething(answer);
        return answer;
      },
    });
  },

  schema: (schema) => fitSchema(schema, { keywords: new Set(), unionOnTop: false }),

  refusal(status, body) {
    const error = isObject(body.error) ? body.error : {};
    const type = String(error.type ?? '');
    if (type === 'billing_error' || status === 402) return 'unpaid';
    if (type === 'request_too_large' || status === 413) return 'context';
    // The format has no code for it: the words are the provider's own and the only sign.
    if (type === 'invalid_request_error' && /prompt is too long|context (?:window|limit)/i.test(String(error.message)))
      return 'context';
    if (type === 'not_found_error' || status === 404) return 'model';
    if (status === 401 || status === 403) return 'key';
    if (type === 'rate_limit_error' || type === 'overloaded_error' || [429, 503, 529].includes(status)) return 'busy';
    return status >= 500 ? 'fault' : 'request';
  },

  models: (body) => idsIn(body.data),
};

/** The parts of a turn in the order in which they go back. */
const inOrder = (
  parts: readonly JsonObject[],
  calls: readonly { id: string; name: string; arguments: JsonObject }[],
) => {
  const left = [...calls];
  return parts.flatMap((part): JsonObject[] => {
    if (part.type === 'text') return part.text === '' ? [] : [{ type: 'text', text: part.text! }];
    if (part.type !== 'tool_use') return [withInput(part)];
    const { id, name, arguments: input } = left.shift()!;
    return [{ type: 'tool_use', id, name, input }];
  });
};

/** What a tool of the server itself was called with arrives like the arguments of any other. */
function withInput({ written, ...part }: JsonObject): JsonObject {
  return typeof written === 'string' && written !== '' ? { ...part, input: readArguments(written).arguments } : part;
}

const textIn = (parts: readonly JsonObject[]) =>
  parts.map(({ type, text }) => (type === 'text' && typeof text === 'string' ? text : '')).join('');

const givenArguments = (input: Json | undefined) =>
  isObject(input)
    ? { arguments: input }
    : input === undefined
      ? { arguments: {} }
      : readArguments(JSON.stringify(input));

/** @returns the text that is new */
function grow(part: JsonObject, delta: JsonObject): string {
  const add = (name: string, more: Json | undefined) => {
    if (typeof more === 'string') part[name] = `${typeof part[name] === 'string' ? part[name] : ''}${more}`;
  };
  if (delta.type === 'input_json_delta') add('written', delta.partial_json);
  if (delta.type === 'thinking_delta') add('thinking', delta.thinking);
  if (delta.type === 'signature_delta') add('signature', delta.signature);
  if (delta.type !== 'text_delta') return '';
  add('text', delta.text);
  return typeof delta.text === 'string' ? delta.text : '';
}

import { asJson, isObject, type Json, type JsonObject } from '../../json/json.js';
import type { AnswerEnd, Dialect, Picture, Question, Turn } from '../dialect.js';
import { fitSchema } from '../schemas.js';
import { count, readAnswer, readArguments, requireSomething } from '../stream.js';

const ENDS: Record<string, AnswerEnd> = {
  tool_calls: 'calls',
  function_call: 'calls',
  length: 'length',
  content_filter: 'refusal',
};

const picture = ({ type, data }: Picture): JsonObject => ({
  type: 'image_url',
  image_url: { url: `data:${type};base64,${data}` },
});

function messages(turn: Turn): JsonObject[] {
  if (turn.role === 'tool') {
    const { call, text, failed, pictures = [] } = turn;
    const result = { role: 'tool', tool_call_id: call, content: failed ? `Error: ${text}` : text };
    // The result of a tool is text here; pictures are shown by whoever asks.
    return pictures.length === 0
      ? [result]
      : [
          result,
          {
            role: 'user',
            content: [{ type: 'text', text: `Images from ${turn.name}:` }, ...pictures.map(picture)],
          },
        ];
  }
  if (turn.role !== 'assistant' || turn.calls.length === 0) return [{ role: turn.role, content: turn.text }];
  const calls = turn.calls.map((call) => ({
    id: call.id,
    type: 'function',
    function: { name: call.name, arguments: call.unreadable ?? JSON.stringify(call.arguments) },
  }));
  return [{ role: 'assistant', content: turn.text || null, tool_calls: calls }];
}

/** Results stand right behind the calls; what shows their pictures comes after all of them. */
function inOrder(turns: readonly Turn[]): JsonObject[] {
  const out: JsonObject[] = [];
  let shown: JsonObject[] = [];
  for (const turn of turns) {
    if (turn.role !== 'tool') out.push(...shown.splice(0));
    const [first, ...rest] = messages(turn);
    out.push(first!);
    shown = [...shown, ...rest];
  }
  return [...out, ...shown];
}

const choiceOf = (choice: Question['choice']): Json =>
  typeof choice === 'string' ? choice : { type: 'function', function: { name: choice.tool } };

/** The wire format `POST /chat/completions`, streamed as server-sent events. */
export const chatCompletions: Dialect = {
  name: 'chat-completions',
  key: 'as a bearer credential',

  request({ connection, settings, turns, tools, choice, schema }) {
    const { temperature, max_tokens, effort, stop, stream = true, body } = settings;
    const offered = tools.map(({ name, description, schema: parameters }) => ({
      type: 'function',
      function: { name, description, parameters },
    }));
    return {
      path: '/chat/completions',
      body: {
        ...(temperature !== undefined && { temperature }),
        ...(max_tokens !== undefined && { max_tokens }),
        ...(effort && { reasoning_effort: effort }),
        ...(stop && { stop }),
        ...body,
        model: connection.model,
        messages: inOrder(turns),
        ...(stream ? { stream, stream_options: { include_usage: true } } : { stream }),
        ...(offered.length > 0 && { tools: asJson(offered) }),
        ...(offered.length > 0 && choice !== 'auto' && { tool_choice: choiceOf(choice) }),
        ...(schema && {
          response_format: { type: 'json_schema', json_schema: { name: 'answer', schema: schema as JsonObject } },
        }),
      },
    };
  },

  reader() {
    const calls: { id: string; name: string; text: string }[] = [];
    let said = '';
    let refused = '';
    let thought = '';
    let stop = '';
    let usage = { input: 0, output: 0, cached: 0 };
    return readAnswer({
      take(chunk) {
        const choice = Array.isArray(chunk.choices) && isObject(chunk.choices[0]) ? chunk.choices[0] : null;
        if (!choice && !isObject(chunk.usage)) {
          // Some servers begin with what is filtered, or end with what is only theirs.
          if (Array.isArray(chunk.choices)) return '';
          throw new SyntaxError('the response has neither choices nor usage');
        }
        if (isObject(chunk.usage)) {
          const { prompt_tokens, completion_tokens, prompt_tokens_details: details } = chunk.usage;
          const cached = isObject(details) ? count(details.cached_tokens) : 0;
          usage = { input: count(prompt_tokens), output: count(completion_tokens), cached };
        }
        if (typeof choice?.finish_reason === 'string') stop = choice.finish_reason;
        const delta = isObject(choice?.delta) ? choice.delta : isObject(choice?.message) ? choice.message : {};
        for (const [position, part] of (Array.isArray(delta.tool_calls) ? delta.tool_calls : []).entries()) {
          if (!isObject(part)) continue;
          const given = isObject(part.function) ? part.function : {};
          const call = (calls[Number(part.index ?? position)] ??= { id: '', name: '', text: '' });
          if (typeof part.id === 'string' && part.id) call.id = part.id;
          call.name += typeof given.name === 'string' ? given.name : '';
          // Some servers send arguments as an object.
          call.text +=
            typeof given.arguments === 'string'
              ? given.arguments
              : JSON.stringify(given.arguments ?? '').replace(/^""$/, '');
        }
        // The form of a call before there were several.
        if (isObject(delta.function_call)) {
          const { name, arguments: text } = delta.function_call;
          const call = (calls[0] ??= { id: '', name: '', text: '' });
          call.name += typeof name === 'string' ? name : '';
          call.text += typeof text === 'string' ? text : JSON.stringify(text ?? '').replace(/^""$/, '');
        }
        if (typeof delta.refusal === 'string') refused += delta.refusal;
        if (typeof delta.reasoning_content === 'string') thought += delta.reasoning_content;
        if (typeof delta.content !== 'string') return '';
        said += delta.content;
        return delta.content;
      },
      finish() {
        const made = calls
          .filter(Boolean)
          .map(({ id, name, text }, index) => ({ id: id || `call_${index}`, name, ...readArguments(text) }));
        // A server that calls tools may still say that it only stopped.
        const end = refused ? 'refusal' : (ENDS[stop] ?? (made.length > 0 ? 'calls' : 'answer'));
        const answer = { text: said || refused, calls: made, usage, end, stop } as const;
        requireSomething(answer);
        return { ...answer, ...(thought && { reasoning: { text: thought } }) };
      },
    });
  },

  schema: (schema) => fitSchema(schema, { keywords: new Set(), unionOnTop: false }),

  refusal(status, body) {
    const error = isObject(body.error) ? body.error : body;
    const code = String(error.code ?? error.type ?? '');
    if (code === 'context_length_exceeded' || code === 'exceed_context_size_error') return 'context';
    if (code === 'insufficient_quota' || status === 402) return 'unpaid';
    if (code === 'model_not_found' || status === 404) return 'model';
    if (status === 413) return 'context';
    if (status === 401 || status === 403) return 'key';
    if (status === 429 || status === 503) return 'busy';
    return status >= 500 ? 'fault' : 'request';
  },

  models: (body) => idsIn(body.data),
};

/** The ids in a list of objects. */
export const idsIn = (list: Json | undefined): string[] =>
  Array.isArray(list) ? list.flatMap((one) => (isObject(one) && typeof one.id === 'string' ? [one.id] : [])) : [];

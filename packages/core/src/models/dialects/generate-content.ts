import { asJson, isObject, type Json, type JsonObject } from '../../json/json.js';
import type { AnswerEnd, Dialect, Picture, Question, ToolCall, Turn } from '../dialect.js';
import { fitSchema } from '../schemas.js';
import { count, readAnswer, requireSomething } from '../stream.js';

const NAME = 'generate-content';
const THOUGHT = { low: 1024, medium: 8192, high: 24_576 };
const ENDS: Record<string, AnswerEnd> = {
  MAX_TOKENS: 'length',
  SAFETY: 'refusal',
  RECITATION: 'refusal',
  BLOCKLIST: 'refusal',
  PROHIBITED_CONTENT: 'refusal',
  SPII: 'refusal',
};
/** What the format takes of JSON Schema is a part of OpenAPI's; these it refuses. */
const REFUSED = new Set([
  ...['oneOf', 'allOf', 'not', 'if', 'then', 'else', 'patternProperties', 'additionalProperties', 'propertyNames'],
  ...['dependentRequired', 'dependentSchemas', 'contains', 'prefixItems', 'uniqueItems', 'multipleOf'],
  ...['exclusiveMinimum', 'exclusiveMaximum', 'examples', 'default', 'deprecated', 'readOnly', 'writeOnly'],
  ...['contentEncoding', 'contentMediaType', 'unevaluatedProperties', 'minContains', 'maxContains', '$anchor'],
]);

const picture = ({ type, data }: Picture): JsonObject => ({ inlineData: { mimeType: type, data } });

function parts(turn: Turn): JsonObject[] {
  const text = turn.text ? [{ text: turn.text }] : [];
  if (turn.role === 'tool') {
    const { call, name, failed, pictures = [] } = turn;
    const response: JsonObject = failed ? { error: turn.text } : { result: turn.text };
    return [{ functionResponse: { id: call, name, response } }, ...pictures.map(picture)];
  }
  if (turn.role !== 'assistant') return text;
  const { reasoning, calls } = turn;
  // Signatures belong to the parts that they came with: the turn goes back as it was.
  if (reasoning?.kept?.dialect === NAME) return reasoning.kept.parts as JsonObject[];
  return [...text, ...calls.map(({ id, name, arguments: args }) => ({ functionCall: { id, name, args } }))];
}

function contents(turns: readonly Turn[]): JsonObject[] {
  const out: { role: string; parts: JsonObject[] }[] = [];
  for (const turn of turns) {
    if (turn.role === 'system') continue;
    const own = parts(turn);
    if (own.length === 0) continue;
    const role = turn.role === 'assistant' ? 'model' : 'user';
    const last = out.at(-1);
    if (last?.role === role) last.parts.push(...own);
    else out.push({ role, parts: own });
  }
  return asJson(out);
}

function callingOf(choice: Question['choice']): JsonObject {
  if (typeof choice !== 'string') return { mode: 'ANY', allowedFunctionNames: [choice.tool] };
  return { mode: { auto: 'AUTO', none: 'NONE', required: 'ANY' }[choice] };
}

/** The wire format `POST /models/NAME:streamGenerateContent`, streamed as server-sent events. */
export const generateContent: Dialect = {
  name: NAME,
  key: 'in the header x-goog-api-key',

  request({ connection, settings, turns, tools, choice, schema }) {
    const { temperature, max_tokens, effort, stop, stream = true, body = {} } = settings;
    const system = turns.flatMap((turn) => (turn.role === 'system' ? [turn.text] : [])).join('\n\n');
    const generationConfig = {
      ...(temperature !== undefined && { temperature }),
      ...(max_tokens !== undefined && { maxOutputTokens: max_tokens }),
      ...(stop && { stopSequences: stop }),
      ...(effort && { thinkingConfig: { thinkingBudget: THOUGHT[effort] } }),
      ...(schema && {
        responseMimeType: 'application/json',
        responseSchema: generateContent.schema(schema).schema as JsonObject,
      }),
      ...(isObject(body.generationConfig) ? body.generationConfig : {}),
    };
    const functionDeclarations = tools.map(({ name, description, schema: parameters }) => ({
      ...{ name, description },
      // Who takes nothing has no parameters here.
      ...(Object.keys((parameters.properties as JsonObject) ?? {}).length > 0 && { parameters: parameters as Json }),
    }));
    const model = encodeURIComponent(connection.model.replace(/^models\//, ''));
    return {
      path: stream ? `/models/${model}:streamGenerateContent?alt=sse` : `/models/${model}:generateContent`,
      body: {
        ...(body as JsonObject),
        contents: contents(turns),
        ...(system && { systemInstruction: { parts: [{ text: system }] } }),
        ...(Object.keys(generationConfig).length > 0 && { generationConfig: generationConfig as JsonObject }),
        ...(tools.length > 0 && { tools: asJson([{ functionDeclarations }]) }),
        ...(tools.length > 0 && choice !== 'auto' && { toolConfig: { functionCallingConfig: callingOf(choice) } }),
      },
    };
  },

  reader() {
    const all: JsonObject[] = [];
    let usage = { input: 0, output: 0, cached: 0 };
    let stop = '';
    let blocked = '';
    return readAnswer({
      take(message) {
        const { candidates, usageMetadata: used, promptFeedback: feedback } = message;
        if (isObject(used))
          usage = {
            input: count(used.promptTokenCount),
            output: count(used.candidatesTokenCount) + count(used.thoughtsTokenCount),
            cached: count(used.cachedContentTokenCount),
          };
        if (isObject(feedback) && typeof feedback.blockReason === 'string') blocked = feedback.blockReason;
        const candidate = Array.isArray(candidates) && isObject(candidates[0]) ? candidates[0] : null;
        if (!candidate && !isObject(used) && !blocked) throw new SyntaxError('the response has no candidates');
        if (!candidate) return '';
        if (typeof candidate.finishReason === 'string') stop = candidate.finishReason;
        const content = isObject(candidate.content) ? candidate.content : {};
        const fresh = Array.isArray(content.parts) ? content.parts.filter(isObject) : [];
        all.push(...fresh);
        return saidIn(fresh);
      },
      finish() {
        const calls = all.flatMap(({ functionCall }, index): ToolCall[] => {
          if (!isObject(functionCall)) return [];
          const { id, name, args } = functionCall;
          const given = args === undefined || args === null ? {} : args;
          return [
            {
              ...{ id: typeof id === 'string' && id ? id : `call_${index}`, name: String(name ?? '') },
              ...(isObject(given) ? { arguments: given } : { arguments: {}, unreadable: JSON.stringify(given) }),
            },
          ];
        });
        if (stop === 'MALFORMED_FUNCTION_CALL' && calls.length === 0)
          throw new SyntaxError('the response contains an unfinished tool call');
        const thought = all
          .map(({ thought, text }) => (thought === true && typeof text === 'string' ? text : ''))
          .join('');
        const signed = all.some(({ thoughtSignature }) => typeof thoughtSignature === 'string');
        const end = blocked ? 'refusal' : (ENDS[stop] ?? (calls.length > 0 ? 'calls' : 'answer'));
        const text = saidIn(all) || (blocked ? `The prompt was blocked: ${blocked}` : '');
        const answer = { text, calls, usage, end, stop: stop || blocked } as const;
        requireSomething(answer);
        const kept = signed && { kept: { dialect: NAME, parts: withIds(all, calls) as Json[] } };
        return { ...answer, ...((thought || signed) && { reasoning: { text: thought, ...kept } }) };
      },
    });
  },

  schema: (schema) =>
    fitSchema(schema, {
      keywords: REFUSED,
      ...{ unionOnTop: false, nullable: true, textEnums: true },
      formats: new Set(['date-time', 'enum', 'int32', 'int64', 'float', 'double']),
    }),

  refusal(status, body) {
    const error = isObject(body.error) ? body.error : {};
    const word = String(error.status ?? '');
    const details = Array.isArray(error.details) ? error.details.filter(isObject) : [];
    const reasons = details.map(({ reason }) => String(reason ?? ''));
    if (reasons.includes('API_KEY_INVALID')) return 'key';
    if (reasons.includes('BILLING_DISABLED') || status === 402) return 'unpaid';
    // The format has no code for it: the words are the provider's own and the only sign.
    if (word === 'INVALID_ARGUMENT' && /exceeds the maximum number of tokens/i.test(String(error.message)))
      return 'context';
    if (word === 'NOT_FOUND' || status === 404) return 'model';
    if (status === 401 || status === 403) return 'key';
    if (word === 'RESOURCE_EXHAUSTED' || word === 'UNAVAILABLE' || status === 429 || status === 503) return 'busy';
    return status >= 500 ? 'fault' : 'request';
  },

  models: (body) =>
    Array.isArray(body.models)
      ? body.models.flatMap((one) =>
          isObject(one) && typeof one.name === 'string' ? [one.name.replace(/^models\//, '')] : [],
        )
      : [],
};

const saidIn = (list: readonly JsonObject[]) =>
  list.map(({ text, thought }) => (typeof text === 'string' && thought !== true ? text : '')).join('');

/** Calls go back under the ids that they were given here, so that results find them. */
function withIds(list: readonly JsonObject[], calls: readonly ToolCall[]): JsonObject[] {
  let next = 0;
  return list.map((part) =>
    isObject(part.functionCall) ? { ...part, functionCall: { ...part.functionCall, id: calls[next++]!.id } } : part,
  );
}

import { isObject, type Json, type JsonObject } from '../../json/json.js';
import { attribute } from './attributes.js';
import type { Span } from './span.js';

export interface TranscriptMessage {
  role: 'system' | 'user' | 'assistant' | 'tool';
  text: string;
  /** Whether it is of an earlier exchange, which the memory kept. */
  earlier: boolean;
  calls: { name: string; arguments: Json }[];
  /** The tool whose result it is. */
  tool: string | null;
  failed: boolean;
  /** The span of the model or of the call, where it happened in this run. */
  span: string | null;
  /** What the model thought before it said so. */
  reasoning: string | null;
}

/** A conversation as its model saw it. */
export interface ModelTranscript {
  /** The span of the agent. */
  agent: string;
  model: string;
  messages: TranscriptMessage[];
  /** Whether its beginning was too long for the record. */
  isCut: boolean;
}

/** What each agent of a run received and answered, from the last model request and what followed. */
export function transcriptsOf(spans: readonly Span[]): ModelTranscript[] {
  return spans.filter(({ work }) => work === 'agent').map((agent) => transcriptOf(agent, spans));
}

function transcriptOf(agent: Span, spans: readonly Span[]): ModelTranscript {
  const own = spans.filter(({ parentId }) => parentId === agent.spanId).sort((a, b) => a.start - b.start);
  const models = own.filter(({ work }) => work === 'model');
  const known = models.findLast(({ input }) => Array.isArray(input));
  const begun = known ? (known.input as Json[]).filter(isObject).map(read) : [];
  const since = begun.findLastIndex(({ role }) => role === 'user');
  const messages = begun.map((message, index) => ({
    ...message,
    earlier: message.role !== 'system' && index < since,
  }));
  if (!known) messages.push(said('user', typeof agent.input === 'string' ? agent.input : ''));
  // What happened after the last question is only in the spans.
  const from = known ? own.indexOf(known) : 0;
  for (const span of own.slice(from)) {
    if (span.work === 'model' && isObject(span.output)) messages.push({ ...read(span.output), span: span.spanId });
    // What the calls gave that came before is in what was sent.
    if (span.work === 'tool') messages.push(resultOf(span));
  }
  point(messages, own);
  return {
    ...{ agent: agent.spanId, model: String(agent.attributes[attribute.model] ?? ''), messages },
    isCut: models.length > 0 && !known,
  };
}

/** Of what happened in this run it is known which span shows it. */
function point(messages: TranscriptMessage[], own: readonly Span[]): void {
  const models = own.filter(({ work }) => work === 'model');
  const left = own.filter(({ work }) => work === 'tool');
  let round = 0;
  for (const message of messages) {
    if (message.earlier) continue;
    if (message.role === 'assistant') {
      const span = models[round++];
      message.span ??= span?.spanId ?? null;
      const thought = span?.attributes[attribute.reasoning];
      if (typeof thought === 'string') message.reasoning = thought;
    }
    if (message.role !== 'tool') continue;
    const at = left.findIndex(({ spanId, attributes }) =>
      message.span ? spanId === message.span : attributes[attribute.tool] === message.tool,
    );
    if (at < 0) continue;
    message.span = left[at]!.spanId;
    left.splice(at, 1);
  }
}

const said = (role: TranscriptMessage['role'], text: string): TranscriptMessage => ({
  ...{ role, text, earlier: false, calls: [], tool: null, failed: false, span: null, reasoning: null },
});

function read(message: JsonObject): TranscriptMessage {
  const role = (['system', 'user', 'tool'] as const).find((one) => one === message.role) ?? 'assistant';
  const calls = (Array.isArray(message.calls) ? message.calls : []).filter(isObject);
  return {
    ...said(role, typeof message.text === 'string' ? message.text : ''),
    calls: calls.map(({ name, arguments: given = null }) => ({ name: String(name), arguments: given })),
    tool: role === 'tool' ? String(message.name ?? '') : null,
    failed: message.failed === true,
  };
}

const resultOf = ({ spanId, attributes, output, error }: Span): TranscriptMessage => ({
  ...said('tool', error?.message ?? (typeof output === 'string' ? output : JSON.stringify(output ?? null))),
  ...{ tool: String(attributes[attribute.tool] ?? ''), failed: error !== undefined, span: spanId },
});

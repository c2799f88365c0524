import { clausesOf, type Schema, selectTool, type Tool, toolsBefore } from './choose.js';
import { type Filled, fillArguments } from './fill.js';
import { meanings } from './words.js';

export interface ChatMessage {
  role: 'system' | 'user' | 'assistant' | 'tool';
  content?: string | null;
  tool_calls?: { id: string; function: { name: string; arguments: string } }[];
  tool_call_id?: string;
}
export interface Thought {
  text: string;
  calls: { name: string; arguments: Record<string, unknown> }[];
}
interface Done {
  name: string;
  arguments: Record<string, unknown>;
  result: string;
  failed: boolean;
}
interface Wish {
  tool: Tool;
  filled: Filled;
}

const words = (name: string) => name.replaceAll('_', ' ');

/** What the model says or does next. Deterministic: the same conversation and tools give the same answer. */
export function think(messages: readonly ChatMessage[], offered: readonly Tool[]): Thought {
  // By what it asks for what is missing it does nothing that anybody asked for.
  const tools = offered.filter(({ name }) => name !== ASK);
  const last = messages.findLastIndex((message) => message.role === 'user');
  const request = wholeRequest(messages, last);
  if (tools.length === 0)
    return say(
      /\bhello\b/i.test(request) ? 'Hello.' : 'I have no tools here, so I cannot look anything up or do anything.',
    );
  const done = callsIn(messages.slice(last + 1));
  const wishes = wishesOf(request, messages.slice(0, last), tools).map((wish) => withAnswers(wish, done));
  if (wishes.length === 0) return say(done.length > 0 ? answer(done, []) : nothingFits(request, tools));

  const open = wishes.filter(
    ({ tool, filled }) => filled.missing.length === 0 && !done.some((call) => same(call, tool.name, filled.values)),
  );
  const blocked = (wish: Wish) =>
    toolsBefore(wish.tool, tools).some((before) => done.some((call) => call.name === before.name && call.failed));
  const calls = open
    .filter((wish) => !blocked(wish))
    .map((wish) => firstStep(wish, request, messages.slice(0, last), tools, done));
  const mended = done.map((call) => mendedCall(call, request, done)).filter((call) => call !== null);
  if (mended.length > 0) return { text: '', calls: distinct(mended) };
  if (calls.length > 0) return { text: '', calls: distinct(calls) };
  const unasked = wishes.filter(({ filled }) => filled.missing.length > 0);
  const form = offered.some(({ name }) => name === ASK) && !done.some(({ name }) => name === ASK) && unasked[0];
  if (form) return { text: '', calls: [formFor(form)] };
  const skipped = open
    .filter(blocked)
    .map(({ tool }) => `I did not ${words(tool.name)}, because what must come first did not work.`);
  return say([answer(done, tools), ...skipped, ...unasked.map(ask)].filter(Boolean).join(' '));
}

/** Whoever says that less will do as well has a refused amount tried again with as much as may be. */
function mendedCall(call: Done, request: string, done: readonly Done[]): Thought['calls'][number] | null {
  if (!call.failed || !/\b(?:as much as|or less|whatever (?:fits|goes))\b/i.test(request)) return null;
  const most = Number(/\bat most (\d+)\b/.exec(call.result)?.[1] ?? Number.NaN);
  const field = Object.entries(call.arguments).find(([, value]) => typeof value === 'number' && value > most)?.[0];
  if (field === undefined) return null;
  const values = { ...call.arguments, [field]: most };
  return done.some((other) => same(other, call.name, values)) ? null : { name: call.name, arguments: values };
}

const ASK = 'ask_user';

/** Asks for all that a tool still needs, by a form. */
function formFor({ tool, filled }: Wish): Thought['calls'][number] {
  const fields = filled.missing.map(({ name, schema }) => {
    const type = schema.enum ? 'choice' : schema.format === 'date' ? 'date' : numeric(schema) ? 'number' : 'text';
    return { name, type, label: schema.description ?? words(name), ...(schema.enum && { choices: schema.enum }) };
  });
  return { name: ASK, arguments: { question: `What is missing to ${words(tool.name)}`, fields } };
}
const numeric = ({ type }: Schema) => type === 'number' || type === 'integer';

/** Form answers replace missing values. */
function withAnswers({ tool, filled }: Wish, done: readonly Done[]): Wish {
  const answers: Record<string, unknown> = {};
  for (const { name, failed, result } of done)
    if (name === ASK && !failed) Object.assign(answers, (readArguments(result) as { answer?: object }).answer);
  const values = { ...filled.values };
  const missing = filled.missing.filter(({ name }) => !(name in answers));
  for (const { name } of filled.missing) if (name in answers) values[name] = answers[name];
  return { tool, filled: { values, missing } };
}

const say = (text: string): Thought => ({ text, calls: [] });

/** What a tool wants to have been used first comes first, with the same facts. */
function firstStep(
  wish: Wish,
  request: string,
  before: readonly ChatMessage[],
  tools: readonly Tool[],
  done: readonly Done[],
): Thought['calls'][number] {
  for (const earlier of toolsBefore(wish.tool, tools)) {
    const filled = fillArguments(earlier, request, background(request, before));
    const known = { ...filled.values, ...common(earlier, wish.filled.values) };
    const complete = (earlier.parameters.required ?? []).every((name) => name in known);
    if (complete && !done.some((call) => same(call, earlier.name, known)))
      return { name: earlier.name, arguments: known };
  }
  return { name: wish.tool.name, arguments: wish.filled.values };
}

const common = (tool: Tool, values: Record<string, unknown>) =>
  Object.fromEntries(Object.entries(values).filter(([name]) => name in (tool.parameters.properties ?? {})));
const same = (call: Done, name: string, values: Record<string, unknown>) =>
  call.name === name && JSON.stringify(sorted(call.arguments)) === JSON.stringify(sorted(values));
const sorted = (values: Record<string, unknown>) => Object.entries(values).sort(([a], [b]) => a.localeCompare(b));
const distinct = (calls: Thought['calls']) =>
  calls.filter((call, index) => calls.findIndex((other) => JSON.stringify(other) === JSON.stringify(call)) === index);

/** The last message, together with the one it answers a question about. */
function wholeRequest(messages: readonly ChatMessage[], last: number): string {
  const text = messages[last]?.content ?? '';
  const asked = messages[last - 1];
  const before = messages.slice(0, Math.max(0, last)).findLastIndex((message) => message.role === 'user');
  const isReply = asked?.role === 'assistant' && asked.content?.trim().endsWith('?') && before >= 0;
  // Only a short reply completes the previous request.
  return isReply && text.split(/\s+/).length <= 6 ? `${wholeRequest(messages, before)} ${text}` : text;
}

function wishesOf(request: string, before: readonly ChatMessage[], tools: readonly Tool[]): Wish[] {
  const clauses = clausesOf(request, tools);
  const chosen = clauses.map((clause) => ({ clause, tool: selectTool(clause, tools) }));
  const hits = chosen.filter((one): one is { clause: string; tool: Tool } => one.tool !== null);
  return hits.map(({ clause, tool }) => ({
    tool,
    filled: fillArguments(tool, hits.length === 1 ? request : clause, background(request, before)),
  }));
}

function background(request: string, before: readonly ChatMessage[]) {
  const newest = before.toReversed();
  const system = before.find((message) => message.role === 'system')?.content ?? '';
  const today = /today is (\d{4}-\d{2}-\d{2})/i.exec(system)?.[1] ?? new Date().toISOString().slice(0, 10);
  return {
    request,
    today,
    earlier: {
      texts: newest.filter((message) => message.role === 'user').map((message) => message.content ?? ''),
      calls: newest.flatMap((message) =>
        (message.tool_calls ?? []).map((call) => readArguments(call.function.arguments)),
      ),
    },
  };
}

function readArguments(text: string): Record<string, unknown> {
  try {
    return JSON.parse(text) as Record<string, unknown>;
  } catch {
    return {};
  }
}

export function callsIn(messages: readonly ChatMessage[]): Done[] {
  return messages.flatMap((message) =>
    (message.tool_calls ?? []).map((call) => {
      const told = messages.find((other) => other.role === 'tool' && other.tool_call_id === call.id)?.content ?? '';
      const result = told.replace(NOTES, '');
      return {
        name: call.function.name,
        arguments: readArguments(call.function.arguments),
        result,
        failed: /^error\b/i.test(result),
      };
    }),
  );
}

/** Lines in brackets before a result say something of it, such as who approved the call. */
const NOTES = /^(?:\([^\n]*\)\n)+/;

/** Describes the result of each call in words taken from it. */
function answer(done: readonly Done[], tools: readonly Tool[]): string {
  const shown = done
    .filter(({ name }) => name !== ASK)
    .filter((call) => call.failed || !isOnlyPreparation(call, done, tools));
  return shown
    .map((call) =>
      call.failed
        ? `I could not ${words(call.name)}: ${call.result.replace(/^error:\s*/i, '')}`
        : `${capital(words(call.name))}: ${inWords(call.result)}.`,
    )
    .join(' ');
}

/** A look-up that only prepared what was asked for need not be told once that has worked. */
function isOnlyPreparation(call: Done, done: readonly Done[], tools: readonly Tool[]): boolean {
  return done.some(
    (other) =>
      !other.failed &&
      tools.some(
        (tool) => tool.name === other.name && toolsBefore(tool, tools).some((before) => before.name === call.name),
      ),
  );
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

function inWords(result: string): string {
  try {
    return value(JSON.parse(result) as unknown);
  } catch {
    return result.trim().replace(/\.$/, '');
  }
}

function value(data: unknown): string {
  if (Array.isArray(data))
    return data.length === 0
      ? 'none'
      : data
          .slice(0, 5)
          .map((item) => `(${value(item)})`)
          .join(', ') + (data.length > 5 ? ` and ${data.length - 5} more` : '');
  if (typeof data === 'object' && data !== null)
    return Object.entries(data)
      .map(([name, inner]) => `${words(name)} ${value(inner)}`)
      .join(', ');
  return data === null ? 'nothing' : String(data);
}

function ask({ tool, filled }: Wish): string {
  const { name, schema } = filled.missing[0]!;
  const choices = schema.enum
    ? ` (${schema.enum.join(', ')})`
    : schema.format === 'date'
      ? ' (a date such as 2027-02-14)'
      : '';
  return `To ${words(tool.name)} I need one more thing: ${words(name)}${choices}?`;
}

function nothingFits(request: string, tools: readonly Tool[]): string {
  const can = tools.map((tool) => words(tool.name)).join(', ');
  return meanings(request).some((word) => /^(?:hello|hi|hey)$/.test(word))
    ? `Hello. I can help with: ${can}.`
    : `I have no tool for that. What I can do: ${can}.`;
}

/** An answer in a schema: its properties are found in the last message like the arguments of a tool. */
export function thinkInSchema(messages: readonly ChatMessage[], schema: Tool['parameters']): Thought {
  const last = messages.findLastIndex((message) => message.role === 'user');
  const request = messages[last]?.content ?? '';
  const tool: Tool = { name: 'answer', description: '', parameters: schema };
  return say(JSON.stringify(fillArguments(tool, request, background(request, messages.slice(0, last))).values));
}

import { milliseconds } from '../duration.js';
import { asPindroError, PindroError } from '../errors.js';
import type { Json, JsonObject, JsonSchema } from '../json.js';
import { askModel } from '../models/ask.js';
import type { AskedAgain, AskedAnswer } from '../models/asking.js';
import type { ToolCall, Turn } from '../models/dialect.js';
import type { ModelConnection } from '../ports.js';
import { didYouMean } from '../suggest.js';
import type { CallContext } from '../tools/source.js';
import { attribute } from '../trace/attributes.js';
import { traceparent } from '../trace/ids.js';
import type { AgentConfig } from './config.js';
import { asKept, asTurns, window } from './memory.js';
import { type AgentTool, failureText, type Toolbox } from './toolbox.js';

export interface AgentAnswer {
  answer: string;
  rounds: number;
  tokens: { input: number; output: number };
  /** What the calls of tools cost, where that was said. */
  cost: number;
  /** Every tool call in order, with how it went. */
  calls: { tool: string; arguments: Json; failed: boolean; result: Json }[];
}

interface AgentRun {
  config: AgentConfig;
  toolbox: Toolbox;
  connection: ModelConnection;
  context: CallContext;
  /** Under which key the conversation is kept, or null. */
  memory: string | null;
}

/**
 * Lets a model work with tools until it answers: asks it, runs the calls it makes side by side, hands back what came of
 * them, and asks again. A failed call is told to the model and does not end the run.
 * @throws round_limit, token_limit, timed_out, and what asking the model throws
 */
export async function runAgent({ config, toolbox, connection, context, memory }: AgentRun): Promise<AgentAnswer> {
  const { ports, recorder } = context;
  const limit = AbortSignal.timeout(milliseconds(config.limits.time));
  const signal = AbortSignal.any([context.signal, limit]);
  const span = recorder.span('agent', `invoke_agent ${context.path}`, context.parentSpan, {
    input: config.message,
    attributes: {
      [attribute.operation]: 'invoke_agent',
      [attribute.requestModel]: connection.model,
      [attribute.model]: config.model,
      [attribute.tools]: toolbox.tools.map((tool) => tool.name),
      ...(toolbox.unreachable.length > 0 && {
        [attribute.unreachable]: toolbox.unreachable.map(({ server, error }) => ({
          server,
          message: error.message,
          hint: error.hint,
        })),
      }),
      ...(toolbox.renamed.length > 0 && { [attribute.renamedTools]: toolbox.renamed }),
      ...(toolbox.held.length > 0 && { [attribute.heldTools]: toolbox.held }),
      ...(toolbox.idle.length > 0 && { [attribute.idlePatterns]: toolbox.idle }),
    },
  });
  const inner: CallContext = { ...context, signal, parentSpan: span.id };
  try {
    const kept = memory ? asTurns(await ports.memory.open(memory, { signal })) : [];
    try {
      const turns: Turn[] = [...window(kept, config.memory?.turns ?? 0), { role: 'user', text: config.message }];
      const answer = await converse(config, toolbox, connection, inner, turns);
      if (memory) await ports.memory.save(memory, asKept(window(turns, config.memory!.turns)));
      span.set({
        [attribute.inputTokens]: answer.tokens.input,
        [attribute.outputTokens]: answer.tokens.output,
        ...(answer.cost > 0 && { [attribute.cost]: answer.cost }),
      });
      span.done(answer.answer);
      return answer;
    } finally {
      if (memory) await ports.memory.release(memory);
    }
  } catch (error) {
    const failure =
      limit.aborted && !context.signal.aborted
        ? new PindroError(
            'timed_out',
            { what: 'The agent', limit: config.limits.time },
            { details: { limit: 'limits.time' } },
          )
        : error;
    span.fail(failure);
    throw failure;
  }
}

async function converse(
  config: AgentConfig,
  toolbox: Toolbox,
  connection: ModelConnection,
  context: CallContext,
  turns: Turn[],
): Promise<AgentAnswer> {
  const { limits } = config;
  const done: AgentAnswer = { answer: '', rounds: 0, tokens: { input: 0, output: 0 }, cost: 0, calls: [] };
  while (done.rounds < limits.rounds) {
    done.rounds++;
    const answer = await askRound(config, toolbox, connection, context, turns, done.rounds);
    turns.push({ role: 'assistant', text: answer.text, calls: answer.calls });
    done.tokens.input += answer.usage.input;
    done.tokens.output += answer.usage.output;
    const used = done.tokens.input + done.tokens.output;
    context.recorder.journal({
      type: 'agent_round',
      path: context.path,
      round: done.rounds,
      calls: answer.calls.map((call) => call.name),
      tokens: used,
    });
    if (answer.calls.length === 0) {
      done.answer = answer.text;
      return done;
    }
    if (used > limits.tokens) throw new PindroError('token_limit', { used, limit: limits.tokens });
    const inside = { ...context, succeeded: succeededIn(turns) };
    const results = await Promise.all(answer.calls.map((call) => callTool(call, toolbox.tools, inside)));
    if (context.signal.aborted) throw context.signal.reason;
    for (const { turn, arguments: args, result, cost } of results) {
      done.cost += cost;
      turns.push(turn);
      done.calls.push({ tool: turn.name, arguments: args, failed: turn.failed, result });
    }
  }
  throw new PindroError('round_limit', { limit: limits.rounds });
}

/** Tools that were called in a conversation and did not fail. */
const succeededIn = (turns: readonly Turn[]): ReadonlySet<string> =>
  new Set(turns.flatMap((turn) => (turn.role === 'tool' && !turn.failed ? [turn.name] : [])));

function askRound(
  config: AgentConfig,
  toolbox: Toolbox,
  connection: ModelConnection,
  context: CallContext,
  turns: Turn[],
  round: number,
): Promise<AskedAnswer> {
  const words = systemWords(config.instructions, toolbox);
  const conversation: Turn[] = words ? [{ role: 'system', text: words }, ...turns] : turns;
  return askOnce(connection, conversation, toolbox.tools, context, { attributes: { [attribute.round]: round } });
}

/** What the builder told the agent, then what those say whose tools it has. */
const systemWords = (own: string, { instructions }: Toolbox): string =>
  [own, ...instructions.map(({ from, text }) => `About the tools of ${from}:\n${text}`)].filter(Boolean).join('\n\n');

/** Asks a model once, as a span of the run, and shows its text as it comes. */
export async function askOnce(
  connection: ModelConnection,
  conversation: Turn[],
  tools: AgentTool[],
  context: CallContext,
  options: { attributes: JsonObject; schema?: JsonSchema | undefined },
): Promise<AskedAnswer> {
  const { ports, recorder } = context;
  const span = recorder.span('model', `chat ${connection.model}`, context.parentSpan, {
    // As it is now: it goes on growing.
    input: asKept([...conversation]),
    attributes: {
      [attribute.operation]: 'chat',
      [attribute.requestModel]: connection.model,
      [attribute.model]: connection.name,
      ...shownOf(tools, options.attributes),
      ...options.attributes,
    },
  });
  const again: AskedAgain[] = [];
  try {
    const answer = await askModel(connection, conversation, tools, {
      fetch: ports.fetch,
      connectionNamed: (name) => ports.models.connection(name),
      onAgain: (one) => {
        again.push({ ...one, why: recorder.masker.text(one.why) });
        span.set({ [attribute.askedAgain]: again as unknown as Json });
      },
      secrets: ports.secrets,
      masker: recorder.masker,
      signal: context.signal,
      traceparent: traceparent(recorder.head.traceId, span.id),
      onText: (text) => recorder.live({ kind: 'text', path: context.path, text }),
      ...(options.schema && { schema: options.schema }),
    });
    span.set({
      [attribute.inputTokens]: answer.usage.input,
      [attribute.outputTokens]: answer.usage.output,
      ...(answer.usage.cached > 0 && { [attribute.cachedTokens]: answer.usage.cached }),
      [attribute.finishReasons]: [answer.stop],
      ...(answer.by.name !== connection.name && {
        [attribute.model]: answer.by.name,
        [attribute.requestModel]: answer.by.model,
      }),
      ...(answer.reasoning?.text && { [attribute.reasoning]: answer.reasoning.text }),
    });
    span.done(asKept([{ role: 'assistant', text: answer.text, calls: answer.calls }])[0]!);
    return answer;
  } catch (error) {
    span.fail(error);
    throw error;
  }
}

/** The tools with their schemas as a model is shown them; in a conversation they stand on its first round. */
function shownOf(tools: readonly AgentTool[], attributes: JsonObject): JsonObject {
  const round = attributes[attribute.round];
  if (tools.length === 0 || (typeof round === 'number' && round > 1)) return {};
  return { [attribute.offered]: tools.map(({ name, description, schema }) => ({ name, description, schema })) };
}

interface Called {
  turn: Extract<Turn, { role: 'tool' }>;
  arguments: Json;
  result: Json;
  cost: number;
}

async function callTool(call: ToolCall, tools: readonly AgentTool[], context: CallContext): Promise<Called> {
  const { recorder } = context;
  const tool = tools.find((candidate) => candidate.name === call.name);
  recorder.live({
    kind: 'call',
    path: context.path,
    id: call.id,
    tool: call.name,
    label: tool?.line ?? tool?.origin ?? '',
    arguments: call.arguments,
  });
  const settle = (text: string, failed: boolean, result: Json, run: string | null, cost = 0): Called => {
    recorder.live({ kind: 'called', path: context.path, id: call.id, tool: call.name, failed, text, run });
    return {
      turn: { role: 'tool', call: call.id, name: call.name, text, failed },
      arguments: call.arguments,
      result,
      cost,
    };
  };
  try {
    if (!tool)
      throw refuseCall(
        call,
        new PindroError(
          'tool_unknown',
          {
            tool: call.name,
            where: 'this agent',
            suggestion: didYouMean(
              call.name,
              tools.map((known) => known.name),
            ),
          },
          { details: { tool: call.name } },
        ),
        context,
      );
    if (call.unreadable !== undefined)
      throw refuseCall(
        call,
        new PindroError(
          'arguments_refused',
          { tool: call.name, why: 'they are not a JSON object', fix: 'Write the arguments as one JSON object.' },
          { details: { tool: call.name } },
        ),
        context,
      );
    const answer = await tool.call(call.arguments, { ...context, path: `${context.path}/${call.id}` });
    return settle(answer.text, false, answer.data ?? answer.text, answer.run ?? null, answer.cost);
  } catch (thrown) {
    const error = asPindroError(thrown);
    return settle(failureText(error), true, { error: error.message }, error.run ?? null);
  }
}

/** A call that never reaches a tool still leaves a span, so that the trace shows what the model tried. */
function refuseCall(call: ToolCall, error: PindroError, context: CallContext): PindroError {
  context.recorder
    .span('tool', `execute_tool ${call.name}`, context.parentSpan, {
      input: call.unreadable ?? call.arguments,
      attributes: { [attribute.operation]: 'execute_tool', [attribute.tool]: call.name },
    })
    .fail(error);
  return error;
}

import type { JsonObject, JsonSchema } from '../../json/json.js';
import { asJson } from '../../json/json.js';
import { askModel } from '../../models/ask.js';
import type { AskedAnswer, ModelRetry } from '../../models/asking.js';
import type { OfferedTool, Turn } from '../../models/dialect.js';
import { capturing } from '../../ports/capture-fetch.js';
import type { ModelConnection } from '../../ports/ports.js';
import { humanDuration } from '../../text/duration.js';
import type { CallContext } from '../../tools/source.js';
import { attribute } from '../../trace/spans/attributes.js';
import { traceFields } from '../../trace/spans/context.js';
import { asKept } from '../memory/memory.js';

/** Asks a model once, as a span of the run, and shows its text as it comes. */
export async function askOnce(
  connection: ModelConnection,
  conversation: Turn[],
  tools: readonly OfferedTool[],
  context: CallContext,
  options: { attributes: JsonObject; schema?: JsonSchema | undefined; longest?: number; unseen?: boolean },
): Promise<AskedAnswer> {
  const { recorder } = context;
  const { ports } = context.run;
  const span = recorder.span('model', `chat ${connection.model}`, context.parentSpan, {
    // A snapshot, because the list grows.
    input: asKept(conversation.map(shownTurn)),
    attributes: {
      [attribute.operation]: 'chat',
      [attribute.requestModel]: connection.model,
      [attribute.model]: connection.name,
      ...shownOf(tools, options.attributes),
      ...options.attributes,
    },
  });
  const again: ModelRetry[] = [];
  try {
    const answer = await askModel(connection, conversation, tools, {
      fetch: capturing(ports.fetch, span.captureExchange),
      connectionNamed: (name) => ports.models.connection(name),
      onAgain: (one) => {
        again.push({ ...one, why: recorder.masker.text(one.why) });
        span.set({ [attribute.askedAgain]: asJson(again) });
        const soon = one.waited > 0 ? ` in ${humanDuration(one.waited)}` : '';
        const message = `${one.why}; retrying ${one.connection}${soon}`;
        recorder.live({
          kind: 'progress',
          path: context.path,
          tool: 'model',
          progress: again.length,
          total: null,
          message,
        });
      },
      secrets: ports.secrets,
      masker: recorder.masker,
      signal: context.signal,
      trace: traceFields(recorder.head, span.id),
      // What is not said to anybody is not shown either.
      ...(!options.unseen && { onText: (text: string) => recorder.live({ kind: 'text', path: context.path, text }) }),
      ...(options.schema && { schema: options.schema }),
      ...(options.longest !== undefined && { longest: options.longest }),
    });
    span.set({
      [attribute.inputTokens]: answer.usage.input,
      [attribute.outputTokens]: answer.usage.output,
      ...(answer.usage.cached > 0 && { [attribute.cachedTokens]: answer.usage.cached }),
      [attribute.finishReasons]: [answer.stop],
      ...(answer.omitted && { [attribute.omittedSettings]: answer.omitted }),
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

/** Images are recorded by type and size only. */
function shownTurn(turn: Turn): Turn {
  if (turn.role !== 'tool' || !turn.pictures) return turn;
  const pictures = turn.pictures.map(({ type, data }) => ({ type, data: `(${data.length} characters of base64)` }));
  return { ...turn, pictures };
}

/** The tools with their schemas as a model is shown them; in a conversation they stand on its first round. */
function shownOf(tools: readonly OfferedTool[], attributes: JsonObject): JsonObject {
  const round = attributes[attribute.round];
  if (tools.length === 0 || (typeof round === 'number' && round > 1)) return {};
  return { [attribute.offered]: tools.map(({ name, description, schema }) => ({ name, description, schema })) };
}

import { PindroError } from '../../errors/errors.js';
import type { Json, JsonObject } from '../../json/json.js';
import { asJson, isObject, ownOf } from '../../json/json.js';
import type {
  ArgumentRules,
  CredentialOwner,
  ServerDescription,
  ToolDescription,
  ToolResult,
} from '../../ports/ports.js';
import { withoutEnd } from '../../text/text-ends.js';
import type { Caller } from '../../trace/journal/head.js';
import { attribute } from '../../trace/spans/attributes.js';
import { traceFields } from '../../trace/spans/context.js';
import { resultText } from '../result-text.js';
import { mergeArguments, rulesFor, seenSchema } from '../rules.js';
import { validate } from '../schema.js';
import type { Calling, SourceContext, SourceTool, ToolAnswer, ToolSource } from '../source.js';
import { refuseBrokenRules } from '../wrap/rules.js';

/** The tools of an attached server. @param rulesOf argument rules of a tool, in addition to those of the server */
export const serverSource = (
  server: string,
  settings: { credential?: CredentialOwner | undefined; rulesOf(tool: string): ArgumentRules | undefined },
): ToolSource => ({
  name: server,
  list: async (context, choose) => {
    const described = await context.run.ports.toolServers.describe(server, context);
    const shared = filledRules(described, context);
    const chosen = new Set(choose(described.tools.map(({ name }) => name)));
    const tools = described.tools
      .filter(({ name, taskOnly }) => chosen.has(name) && !taskOnly)
      .map((tool) => {
        const rules = rulesFor(tool, shared, settings.rulesOf(tool.name));
        refuseBrokenRules(tool, rules);
        return {
          ...serverTool(server, tool, rules, settings.credential, described.place),
          ...seenOf(described, tool.name),
        };
      });
    return {
      tools,
      instructions: described.instructions ?? '',
      held: described.held ?? {},
      ...(described.unreachable && { unreachable: { server, error: described.unreachable } }),
    };
  },
});

/** Rules as they stand on a server, with the values of this run. */
export const filledRules = ({ rules }: ServerDescription, context: Pick<SourceContext, 'fill'>): ArgumentRules =>
  context.fill(asJson(rules), ['toolbox']) as unknown as ArgumentRules;

/**
 * One tool of an attached server: merges arguments by their rules, and converts a tool error to `tool_reported_error`.
 * @param whose credential to send
 * @throws caller_without_credential
 */
export function serverTool(
  server: string,
  tool: ToolDescription,
  rules: ArgumentRules,
  whose: CredentialOwner = 'workspace',
  place = server,
): SourceTool {
  return {
    ...{ name: tool.name, description: tool.description ?? tool.title ?? '', origin: server },
    server,
    identity: JSON.stringify([place, tool.name, tool.description, tool.inputSchema, tool.annotations]),
    schema: seenSchema(tool.inputSchema, rules),
    attributes: {
      [attribute.mcpMethod]: 'tools/call',
      [attribute.server]: server,
      [attribute.ownTool]: tool.name,
      ...(whose === 'caller' && { [attribute.credential]: "the caller's own" }),
    },
    reads: tool.annotations?.readOnlyHint === true,
    prepare: (given, late) => mergeArguments(tool, rules, given, late),
    sends: tool.inputSchema,
    call: async (given, calling) => {
      const { recorder, span, late } = calling;
      const merged = mergeArguments(tool, rules, given, late);
      const credential = whose === 'caller' ? ownCredential(server, recorder.head.caller) : undefined;
      if (merged !== given) span.set({ [attribute.sent]: merged });
      // The outside may do something that cannot be undone: what led here must be on disk first.
      await recorder.commit();
      const result = await ask(server, tool.name, merged, credential, calling);
      const text = recorder.masker.text(resultText(result));
      if (result._meta?.['pindro/kept'] !== undefined) span.set({ [attribute.kept]: result._meta['pindro/kept'] });
      if (result.isError) throw reported(server, tool.name, merged, text, result);
      const unfit = unfitOf(tool, result);
      if (unfit) span.set({ [attribute.unfit]: unfit });
      return answerOf(result, text);
    },
  };
}

/** Facts about a tool in addition to the server's definition. */
export const seenOf = (
  { flagged, since }: ServerDescription,
  tool: string,
): Pick<SourceTool, 'flagged' | 'changedAt'> => {
  const [why, at] = [ownOf(flagged, tool), ownOf(since, tool)];
  return { ...(why !== undefined && { flagged: why }), ...(at !== undefined && { changedAt: at }) };
};

/** How a result differs from the output schema. It is forwarded anyway, because the call is done. */
function unfitOf({ outputSchema }: ToolDescription, { structuredContent }: ToolResult): string | null {
  if (!outputSchema) return null;
  if (!structuredContent) return 'the output schema promises a structured result, but there is none';
  return validate(outputSchema, structuredContent)[0]?.message ?? null;
}

function ask(
  server: string,
  tool: string,
  args: JsonObject,
  credential: string | undefined,
  { run: { ports }, recorder, span, signal, path, attempt, limit, fresh }: Calling,
): Promise<ToolResult> {
  return ports.toolServers.call(server, tool, args, {
    signal,
    trace: traceFields(recorder.head, span.id),
    idempotencyKey: `${recorder.head.id}/${path}/${attempt}`,
    ...(credential !== undefined && { credential }),
    ...(fresh > 0 && { fresh }),
    // Whoever gave the step its time gave it to what it calls.
    ...(limit !== null && { limit }),
    onProgress: ({ progress, total = null, message = '' }) =>
      recorder.live({ kind: 'progress', path, tool, progress, total, message }),
    onSaid: ({ level, text }) => {
      span.say({ level, text });
      recorder.live({ kind: 'said', path, tool, level, text });
    },
    onWrote: (text) => span.say({ level: 'program', text }),
    onExchange: span.captureExchange,
  });
}

function answerOf(result: ToolResult, text: string): ToolAnswer {
  return {
    ...{ text, data: resultData(result, text), content: result.content },
    record: {
      content: result.content,
      ...(result.structuredContent && { structuredContent: result.structuredContent }),
    },
  };
}

function resultData(result: ToolResult, text: string): Json {
  if (result.structuredContent) return result.structuredContent;
  try {
    return JSON.parse(text) as Json;
  } catch {
    return null;
  }
}

function reported(server: string, tool: string, args: JsonObject, text: string, result: ToolResult): PindroError {
  const blamed = blamedArguments(args, text);
  return new PindroError(
    'tool_reported_error',
    { tool: `${server}.${tool}`, why: text },
    {
      details: {
        ...{ server, tool, arguments: args, blamed, why: text },
        ...(isObject(result.structuredContent) && { data: result.structuredContent }),
      },
    },
  );
}

/**
 * Finds the arguments that an error text mentions, by value or else by name.
 * @param args the arguments of the call
 * @param text the error text of the tool
 * @returns names, the likeliest first
 */
export function blamedArguments(args: JsonObject, text: string): string[] {
  const words = new Set((text.toLowerCase().match(/[\p{L}\p{N}_.-]+/gu) ?? []).map((word) => withoutEnd(word, '_.-')));
  const byValue = Object.entries(args).filter(
    ([, value]) => typeof value !== 'object' && typeof value !== 'boolean' && words.has(String(value).toLowerCase()),
  );
  const byName = Object.entries(args).filter(
    ([name]) =>
      words.has(name.toLowerCase()) || name.split('_').some((part) => part.length > 3 && words.has(part.toLowerCase())),
  );
  return [...new Set([...byValue, ...byName].map(([name]) => name))];
}

function ownCredential(server: string, { id, credentials }: Caller): string {
  const credential = ownOf(credentials, server);
  if (credential === undefined)
    throw new PindroError('caller_without_credential', { caller: id, server }, { details: { server, caller: id } });
  return credential;
}

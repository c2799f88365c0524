import {
  type AgentEntry,
  asFlow,
  attribute,
  type DoneCall,
  type FlowDocument,
  isObject,
  type Json,
  type JsonObject,
  type JsonSchema,
  PindroError,
  type Span,
} from '@pindro/core';
import type { RunRecord, RunStore } from '../record/reading/run-store.js';

/**
 * A flow that does without a model what the agent of a run did.
 * @param ruled the arguments that the rules of a server supply: each step gets them anyway, and may not send them
 * @throws request_invalid where there is nothing to make it of
 */
export function flowOf(
  run: RunRecord,
  store: RunStore,
  name: string,
  ruled: (server: string) => readonly string[] = () => [],
): FlowDocument {
  const { id } = run.head;
  const entries = store.entries(id);
  const turns = entries.flatMap((entry) =>
    entry.type === 'agent_turn' ? [{ path: entry.path, turn: entry.turn as unknown as AgentEntry }] : [],
  );
  const begun = turns.find(({ turn }) => turn.is === 'begun');
  const spans = store.spans(store.tree(id)).filter((span) => span.run === id);
  const tools = spans.filter(({ work, status }) => work === 'tool' && status === 'ok');
  const step = stepOf(store.documentOf(id), begun?.path);
  const offered = spans.flatMap(
    ({ attributes }) => (attributes[attribute.offered] ?? []) as { name: string; schema: JsonSchema }[],
  );
  const calls: DoneCall[] = [];
  let round = 0;
  for (const { turn } of turns) {
    if (turn.is === 'answered') round++;
    if (turn.is !== 'result' || turn.result.state !== 'done') continue;
    const { tool, data, run: child } = turn.result;
    const at = tools.findIndex((span) => fits(span, turn.result.tool, turn.result.arguments));
    const [span] = at < 0 ? [] : tools.splice(at, 1);
    const target = span && targetOf(span);
    if (!target) continue;
    const sent = child ? store.inputOf(child) : (span.attributes[attribute.sent] ?? turn.result.arguments);
    const schema = offered.find((one) => one.name === tool)?.schema ?? null;
    const set = setBy(step, target);
    const left = 'server' in target ? ruled(target.server).filter((one) => !Object.hasOwn(set, one)) : [];
    const args = Object.entries(isObject(sent) ? sent : {}).filter(([one]) => !left.includes(one));
    calls.push({ round, tool, target, data, schema, arguments: Object.fromEntries(args), set });
  }
  if (calls.length === 0)
    throw new PindroError('request_invalid', {
      why: `No agent of run ${id} called a tool that can become a step`,
    });
  const said = begun?.turn.is === 'begun' ? begun.turn.turns.findLast(({ role }) => role === 'user') : undefined;
  return asFlow(name, said?.text ?? '', calls);
}

const fits = ({ attributes, input }: Span, tool: string, args: Json) =>
  attributes[attribute.tool] === tool && JSON.stringify(input) === JSON.stringify(args);

function targetOf({ attributes }: Span): DoneCall['target'] | null {
  const { [attribute.flow]: flow, [attribute.server]: server, [attribute.ownTool]: tool } = attributes;
  if (typeof flow === 'string') return { flow };
  return typeof server === 'string' && typeof tool === 'string' ? { server, tool } : null;
}

/** The configuration of the agent step. */
function stepOf(document: FlowDocument | undefined, path: string | undefined): JsonObject {
  const step = document?.steps[path?.split('/')[0] ?? ''];
  return isObject(step?.with) ? step.with : {};
}

/** The values that the toolbox sets for a tool of a server, with their expressions. */
function setBy({ toolbox }: JsonObject, target: DoneCall['target']): JsonObject {
  if ('flow' in target || !Array.isArray(toolbox)) return {};
  const row = toolbox.filter(isObject).find((one) => one.server === target.server);
  const own = isObject(row?.tools) ? row.tools[target.tool] : undefined;
  const rules = isObject(own) && isObject(own.arguments) ? own.arguments : {};
  return Object.fromEntries(
    Object.entries(rules).flatMap(([name, rule]) => (isObject(rule) && 'set' in rule ? [[name, rule.set!]] : [])),
  );
}

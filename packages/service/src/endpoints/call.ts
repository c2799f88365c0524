import {
  asJson,
  asPindroError,
  type Exposure,
  type FlowDocument,
  type FlowOutcome,
  type JsonObject,
  type Missing,
  mergeArguments,
  PindroError,
  type RunRequest,
  Template,
  today,
} from '@pindro/core';
import { LRUCache } from 'lru-cache';
import type { FlowStore } from '../flows/store.js';
import type { Runner } from '../runs/runner.js';
import type { BuiltIn } from './built-in.js';
import type { ToolCallRequest } from './tool-call-request.js';

interface Parts {
  flows: FlowStore;
  runner: Runner;
  zone: string;
  builtIn(endpoint: string): BuiltIn | null;
}

/** Calls an exposed tool. Each call is a run, except for what a built-in endpoint answers itself. */
export async function callExposed(request: ToolCallRequest, parts: Parts): Promise<FlowOutcome> {
  const { flows, runner, zone } = parts;
  const { tool, access, session, trace, endpoint, client } = request;
  if (tool.trouble !== null)
    return recordRefusal(
      request,
      tool.name,
      new PindroError('flow_broken', { flow: tool.name, why: tool.trouble }),
      runner,
    );
  const { target } = tool;
  if ('builtIn' in target) return parts.builtIn(endpoint)!.call(request);
  const { document, revision } =
    'flow' in target ? flows.loadNow(target.flow, access.stage) : { document: passThrough(target), revision: null };
  const base = {
    document,
    revision,
    stage: access.stage,
    entry: 'tool' as const,
    caller: access.caller,
    // A request without a session is a conversation of its own.
    session: session || null,
    runId: request.run,
    through: { endpoint, tool: tool.name, key: access.id, client },
    ...trace,
  };
  const merged = merge(request, zone);
  const run: RunRequest =
    merged instanceof PindroError ? { ...base, input: request.given, refusal: merged } : { ...base, input: merged };
  return runner.begin(run, request.stop).outcome;
}

/** An authorized call that is rejected before it starts is a run too: it is counted and can be viewed. */
export function recordRefusal(
  { given, access, session, run, endpoint, client, trace, stop }: Omit<ToolCallRequest, 'tool'>,
  tool: string,
  refusal: PindroError,
  runner: Runner,
): Promise<FlowOutcome> {
  const document: FlowDocument = { format: 'pindro/flow@1', name: `${endpoint}.${tool.slice(0, 64)}`, steps: {} };
  const request: RunRequest = {
    ...{ document, revision: null, stage: access.stage, entry: 'tool', caller: access.caller },
    ...{ session: session || null, runId: run, input: given, refusal },
    through: { endpoint, tool, key: access.id, client },
    ...trace,
  };
  return runner.begin(request, stop).outcome;
}

/** Without rules there is nothing to merge: the run itself holds what was sent against the flow's input. */
function merge(
  { tool, given, access, session, client, endpoint }: ToolCallRequest,
  zone: string,
): JsonObject | PindroError {
  if (Object.keys(tool.rules).length === 0) return given;
  try {
    const now = Date.now();
    const scope = {
      caller: { ...access.caller.attributes, id: access.caller.id },
      session: { id: session, client, endpoint },
      clock: { now: new Date(now), today: today(now, zone), zone },
    };
    const text = JSON.stringify(tool.rules);
    const template = new Template(asJson(tool.rules), ['tools', tool.name, 'arguments']);
    const filled = text.includes('${') ? template.fill(scope) : null;
    const rules = (filled?.value as unknown as typeof tool.rules | undefined) ?? tool.rules;
    try {
      return mergeArguments({ name: tool.name, inputSchema: tool.schema }, rules, given);
    } catch (error) {
      throw withReason(error, filled?.missing ?? []);
    }
  } catch (error) {
    return asPindroError(error);
  }
}

/** Where a rule has no value, what it reads and why that is not there. */
function withReason(error: unknown, missing: readonly Missing[]): unknown {
  if (!(error instanceof PindroError) || error.code !== 'rule_without_value') return error;
  const argument = String(error.details?.argument ?? '');
  const found = missing.find(({ parts }) => parts[3] === argument);
  if (!found) return error;
  const why = `: "${found.expression}" reads a missing value`;
  const tool = String(error.details?.tool ?? '');
  return new PindroError(
    'rule_without_value',
    { argument, tool, why },
    { at: `/${argument}`, details: error.details! },
  );
}

type ServerTarget = Extract<Exposure['target'], { server: string }>;
/** Documents of recently called tools: each is prepared once, and servers and tools come and go. */
const documents = new LRUCache<string, FlowDocument>({ max: 1000 });

/** A tool of an attached server, served as it is, runs as a flow of one step: it is recorded and explained like any. */
function passThrough({ server, tool, credential = 'workspace' }: ServerTarget): FlowDocument {
  const name = `${server}.${tool}`;
  const key = `${name} ${credential}`;
  let document = documents.get(key);
  if (!document) {
    document = {
      format: 'pindro/flow@1',
      name,
      input: { type: 'object' },
      // The rules of the server were merged with those of the endpoint already.
      steps: { call: { kind: 'tool', with: { server, tool, credential, arguments: '${ input }', rules: 'none' } } },
      result: { content: '${ steps.call.content }', data: '${ steps.call.data }' },
    };
    documents.set(key, document);
  }
  return document;
}

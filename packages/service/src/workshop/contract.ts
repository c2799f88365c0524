import {
  asJson,
  type Contract,
  contractChanges,
  type FlowDocument,
  inputSchema,
  isObject,
  type Json,
  type JsonObject,
  resultSchema,
  type Stage,
} from '@pindro/core';
import type { WorkshopParts } from './tools/tool.js';

/** A flow from the perspective of its callers: input, output and side effects. */
export function contractOf(document: FlowDocument, stage: Stage, { endpoints }: WorkshopParts): Contract {
  const effects = endpoints.effects(document, stage);
  return {
    description: document.description ?? '',
    input: inputSchema(document),
    result: effects.waits ? null : resultSchema(document),
    effects,
  };
}

/** Its side effects, as text. */
export function effectWords({ effects }: Contract): string[] {
  return [
    effects.writes ? 'changes data' : 'read-only',
    ...(effects.destroys ? ['destructive'] : []),
    ...(effects.writes && effects.repeatable ? ['idempotent'] : []),
    ...(effects.outside ? ['reaches external services'] : []),
    ...(effects.waits ? ['may wait for a person or a time: it then answers immediately with the run ID'] : []),
  ];
}

/** Every way to call a flow from outside. @param stage stage of the tools; webhooks, forms and chats are live */
export function waysToCall(flow: string, stage: Stage, { endpoints, entries, address }: WorkshopParts): JsonObject {
  const tools = endpoints.carrying(flow).flatMap((endpoint) =>
    endpoints
      .served(endpoint, stage)
      .filter(({ target }) => 'flow' in target && target.flow === flow)
      .map(({ name, description, seen, trouble }) => ({
        endpoint,
        address: `${address()}/mcp/${endpoint}`,
        tool: name,
        description,
        arguments: seen,
        ...(trouble !== null && { cannot_be_called: trouble }),
      })),
  );
  const open = entries.list(flow).filter(({ on }) => on);
  const at = (kind: string, path: string) => `${address()}/${kind}s/${path}`;
  const hooks = open.flatMap(({ path, settings }) =>
    settings.kind === 'hook'
      ? [
          {
            address: at('hook', path),
            methods: settings.methods,
            needs: GUARDS[settings.guard],
            answers:
              settings.answer === 'result' ? 'with the result, once it is there' : 'immediately, with the run ID',
          },
        ]
      : [],
  );
  const of = (kind: 'form' | 'chat') =>
    open.filter(({ settings }) => settings.kind === kind).map(({ path }) => at(kind, path));
  const schedules = open.flatMap(({ settings }) => (settings.kind === 'schedule' ? [settings.cron] : []));
  const ways = asJson({ tools, hooks, forms: of('form'), chats: of('chat'), schedules });
  return Object.fromEntries(Object.entries(ways).filter(([, list]) => (list as Json[]).length > 0));
}

const GUARDS = {
  open: 'none: anybody may call it',
  key: 'an access key for this webhook, as "Authorization: Bearer KEY"',
  signature: 'a signature with its secret, according to the Standard Webhooks specification',
};

/** What changed in a flow's contract since a revision. */
export function changesSince(
  flow: string,
  since: number,
  now: Contract,
  stage: Stage,
  parts: WorkshopParts,
): JsonObject {
  const before = contractOf(parts.flows.revisions.get(flow, since).document, stage, parts);
  const changes = contractChanges(before, now);
  return {
    since,
    changes: asJson(changes),
    in_short:
      changes.length === 0
        ? 'No change for callers'
        : changes.some(({ breaks }) => breaks)
          ? 'Callers must change something'
          : 'Callers can continue unchanged',
  };
}

/** Cuts long text in a value, so that an assistant is not drowned. */
export function shortened(value: Json, longest = 1500): Json {
  const text = JSON.stringify(value);
  if (text === undefined || text.length <= longest) return value ?? null;
  if (typeof value === 'string') return `${value.slice(0, longest)} … (${value.length} characters)`;
  if (Array.isArray(value))
    return value.length > 5
      ? [...value.slice(0, 5).map((one) => shortened(one, longest / 5)), `… (${value.length} in total)`]
      : value.map((one) => shortened(one, longest / value.length));
  if (isObject(value)) {
    const share = Math.max(80, longest / Object.keys(value).length);
    return Object.fromEntries(Object.entries(value).map(([name, inner]) => [name, shortened(inner, share)]));
  }
  return value;
}

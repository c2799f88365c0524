import {
  asJson,
  type Fix,
  isObject,
  type JsonObject,
  letOthers,
  nextOfEach,
  ownOf,
  PindroError,
  reviewTools,
  TOOL_NAME,
} from '@pindro/core';
import type { EndpointDocument, ExposedEntry } from './document.js';
import { reviewed, type ServedTool } from './served.js';
import type { EndpointStore } from './store.js';

/** What may be changed of how a tool reads; null takes a change back. */
export interface Wording {
  name?: string | undefined;
  title?: string | null | undefined;
  description?: string | null | undefined;
  arguments?: JsonObject | undefined;
  annotations?: JsonObject | undefined;
  returns?: JsonObject | null | undefined;
  icon?: string | null | undefined;
  credential?: 'workspace' | 'caller' | undefined;
}

/** Merges changes into a value; null removes a part, and empty parts are omitted. */
function merged(base: JsonObject | undefined, change: JsonObject): JsonObject | undefined {
  const all = Object.entries({ ...base, ...change }).filter(([, value]) => value !== null);
  return all.length > 0 ? Object.fromEntries(all) : undefined;
}

/** Changes how a tool reads on an endpoint, without touching the flow or the server. */
export function describeTool(store: EndpointStore, endpoint: string, tool: string, wording: Wording): void {
  store.requireMade(endpoint);
  const tools = { ...store.get(endpoint).tools };
  store.change(endpoint, { tools: withWording(tools, servedBy(store, endpoint), tool, wording) });
}

type Tools = EndpointDocument['tools'];

const servedBy = (store: EndpointStore, endpoint: string): Served =>
  new Map(store.served(endpoint, 'live').map((tool) => [tool.name, tool]));
type Served = ReadonlyMap<string, ServedTool>;

/** Changes the presentation of one tool of an endpoint. @param served what it serves now */
function withWording(tools: Tools, served: Served, tool: string, wording: Wording): Tools {
  const known = served.get(tool);
  const entry = ownOf(tools, tool) ?? (known?.passed ? (known.target as ExposedEntry) : undefined);
  if (!entry)
    throw new PindroError('not_found', {
      what: 'tool on this endpoint',
      name: tool,
      suggestion: `It has ${Object.keys(tools).join(', ') || 'none yet'}.`,
    });
  const { name = tool, ...words } = wording;
  const before = asJson(entry);
  const changed = { ...before } as JsonObject;
  for (const word of ['title', 'description', 'returns', 'icon', 'credential'] as const) {
    if (words[word] === null) delete changed[word];
    else if (words[word] !== undefined) changed[word] = words[word];
  }
  for (const part of ['arguments', 'annotations'] as const) {
    if (!words[part]) continue;
    const all = merged(before[part] as JsonObject | undefined, words[part]);
    if (all) changed[part] = all;
    else delete changed[part];
  }
  return renamed(tools, tool, name, changed as unknown as ExposedEntry);
}

/** Returns the tools with one of them renamed and changed, in its old position. */
function renamed(tools: Tools, from: string, to: string, entry: ExposedEntry): Tools {
  if (to === from) {
    tools[to] = entry;
    return tools;
  }
  if (Object.hasOwn(tools, to)) throw new PindroError('already_there', { what: 'tool on this endpoint', name: to });
  if (!TOOL_NAME.test(to))
    throw new PindroError('request_invalid', {
      why: `"${to}" is not a valid tool name: use lower-case letters, digits and _, starting with a letter`,
    });
  if (!Object.hasOwn(tools, from)) return { ...tools, [to]: entry };
  return Object.fromEntries(Object.entries(tools).map(([name, own]) => (name === from ? [to, entry] : [name, own])));
}

/** What a proposal of the review changes, as a wording. */
function asWording(fix: Fix, schemaOf: (argument: string) => JsonObject): Wording {
  if ('rename' in fix) return { name: fix.rename };
  if (!('argument' in fix)) return { description: fix.description };
  const { argument, description, schema } = fix;
  const before = schemaOf(argument);
  return {
    arguments: { [argument]: { ask: { ...before, ...(description && { description }), ...(schema && { schema }) } } },
  };
}

/**
 * Applies what the review proposes, for each tool one after the other, looking again after each: one change may settle
 * another.
 * @param wanted ids; all that can be applied if null
 * @returns ids of what was applied
 */
export async function applyReview(
  store: EndpointStore,
  endpoint: string,
  wanted: readonly string[] | null,
): Promise<string[]> {
  const applied: string[] = [];
  for (;;) {
    await letOthers();
    const served = servedBy(store, endpoint);
    const found = nextOfEach(reviewTools([...served.values()].map(reviewed)), applied, wanted);
    if (found.length === 0) return applied;
    let tools = { ...store.get(endpoint).tools };
    for (const { id, tool, fix } of found) {
      const { rules } = served.get(tool)!;
      const askedOf = (argument: string) => {
        const rule = rules[argument];
        return isObject(rule) && 'ask' in rule ? (rule.ask as JsonObject) : {};
      };
      // Two may have been given the same better name; the second looks for another one in the next round.
      if ('rename' in fix && Object.hasOwn(tools, fix.rename)) continue;
      tools = withWording(tools, served, tool, asWording(fix, askedOf));
      applied.push(id);
    }
    store.change(endpoint, { tools });
  }
}

import { type Fix, isObject, type JsonObject, PindroError, type Remark, reviewTools, TOOL_NAME } from '@pindro/core';
import type { EndpointDocument, ExposedEntry } from './document.js';
import { reviewed } from './served.js';
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

/** Merges changes into a value; null takes a part out, and an empty part is left out altogether. */
function merged(base: JsonObject | undefined, change: JsonObject): JsonObject | undefined {
  const all = Object.entries({ ...base, ...change }).filter(([, value]) => value !== null);
  return all.length > 0 ? Object.fromEntries(all) : undefined;
}

/** Changes how a tool reads on an endpoint, without touching the flow or the server. */
export function wordTool(store: EndpointStore, endpoint: string, tool: string, wording: Wording): void {
  store.requireMade(endpoint);
  const document = store.get(endpoint);
  const served = store.served(endpoint, 'live').find((candidate) => candidate.name === tool);
  const entry = document.tools[tool] ?? (served?.passed ? (served.target as ExposedEntry) : undefined);
  if (!entry)
    throw new PindroError('not_found', {
      what: 'tool on this endpoint',
      name: tool,
      suggestion: `It has ${Object.keys(document.tools).join(', ') || 'none yet'}.`,
    });
  const { name = tool, ...words } = wording;
  const before = entry as unknown as JsonObject;
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
  store.change(endpoint, { tools: renamed(document, tool, name, changed as unknown as ExposedEntry) });
}

/** The tools with one of them changed, and called anew, in its old place. */
function renamed(document: EndpointDocument, from: string, to: string, entry: ExposedEntry): EndpointDocument['tools'] {
  if (to !== from) {
    if (to in document.tools) throw new PindroError('already_there', { what: 'tool on this endpoint', name: to });
    if (!TOOL_NAME.test(to))
      throw new PindroError('request_invalid', {
        why: `"${to}" cannot name a tool: lower-case letters, digits and _, beginning with a letter`,
      });
  }
  if (!(from in document.tools)) return { ...document.tools, [to]: entry };
  return Object.fromEntries(
    Object.entries(document.tools).map(([name, own]) => (name === from ? [to, entry] : [name, own])),
  );
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
 * Applies what the review proposes, one after the other, looking again after each: one change may settle another.
 * @param wanted ids; all that can be applied if null
 * @returns ids of what was applied
 */
export function applyRemarks(store: EndpointStore, endpoint: string, wanted: readonly string[] | null): string[] {
  const applied: string[] = [];
  const open = (): (Remark & { fix: Fix; tool: string }) | undefined =>
    reviewTools(store.served(endpoint, 'live').map(reviewed)).find(
      (remark): remark is Remark & { fix: Fix; tool: string } =>
        remark.fix !== null &&
        remark.tool !== null &&
        !applied.includes(remark.id) &&
        (wanted === null || wanted.includes(remark.id)),
    );
  for (let remark = open(); remark; remark = open()) {
    const { tool } = remark;
    const rules = store.served(endpoint, 'live').find((one) => one.name === tool)!.rules;
    const askedOf = (argument: string) => {
      const rule = rules[argument];
      return isObject(rule) && 'ask' in rule ? (rule.ask as JsonObject) : {};
    };
    wordTool(store, endpoint, tool, asWording(remark.fix, askedOf));
    applied.push(remark.id);
  }
  return applied;
}

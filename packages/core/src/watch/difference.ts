import { asJson, isObject, type Json, type JsonObject, type JsonSchema } from '../json/json.js';
import type { ToolDescription } from '../ports/ports.js';
import { argumentsOf } from './flag.js';
import type { ToolChange, ToolPart } from './tool-change.js';

export type { ToolChange, ToolPart };

/**
 * Compares two tool lists of a server, in the order of names.
 * @param before tools of the older list
 * @param after tools of the newer list
 * @returns new, gone, renamed and changed tools; none that stayed the same
 */
export function compareTools(before: readonly ToolDescription[], after: readonly ToolDescription[]): ToolChange[] {
  const then = new Map(before.map((tool) => [tool.name, tool]));
  const now = new Map(after.map((tool) => [tool.name, tool]));
  const gone = before.filter(({ name }) => !now.has(name));
  const fresh = after.filter(({ name }) => !then.has(name));
  const changes: ToolChange[] = [];
  for (const tool of fresh) {
    const at = gone.findIndex((one) => isSame(one, tool));
    const [was] = at < 0 ? [] : gone.splice(at, 1);
    changes.push(
      was
        ? { tool: tool.name, kind: 'renamed', was: was.name, parts: partsOf(was, tool), breaks: [callsOf(was.name)] }
        : { tool: tool.name, kind: 'new', was: null, parts: [], breaks: [] },
    );
  }
  for (const { name } of gone)
    changes.push({ tool: name, kind: 'gone', was: null, parts: [], breaks: [callsOf(name)] });
  for (const tool of after) {
    const was = then.get(tool.name);
    if (!was || same(was, tool)) continue;
    changes.push({
      tool: tool.name,
      kind: 'changed',
      was: null,
      parts: partsOf(was, tool),
      breaks: breaksOf(was, tool),
    });
  }
  return changes.sort((a, b) => a.tool.localeCompare(b.tool));
}

/** Parts of a tool that a model reads or a caller relies on; icons and forwarded metadata are excluded. */
const told = ({ name, title, description, inputSchema, outputSchema, annotations, taskOnly }: ToolDescription) =>
  text(asJson({ name, title, description, inputSchema, outputSchema, annotations, taskOnly }));

/**
 * Returns whether two versions of a tool are the same to its users.
 * @param one version of the tool
 * @param other another version
 * @returns true if name, description, schemas and annotations are equal
 */
export const same = (one: ToolDescription, other: ToolDescription): boolean => told(one) === told(other);

/** Whether a tool that went and one that came are the same under another name. */
const isSame = (one: ToolDescription, other: ToolDescription) =>
  (one.description ?? '') !== '' && same({ ...one, name: '', title: '' }, { ...other, name: '', title: '' });

const callsOf = (name: string) => `Calls of ${name} fail: the tool no longer exists.`;

function partsOf(was: ToolDescription, is: ToolDescription): ToolPart[] {
  const args = union(argumentsOf(was), argumentsOf(is)).map((name) => {
    const schema = (tool: ToolDescription) => argumentsOf(tool).find(([one]) => one === name)?.[1];
    return part(`arguments/${name}`, worded(schema(was), was, name), worded(schema(is), is, name));
  });
  const annotations = union(entries(was.annotations), entries(is.annotations)).map((name) =>
    part(`annotations/${name}`, shown(was.annotations?.[name]), shown(is.annotations?.[name])),
  );
  const parts = [
    part('title', was.title ?? null, is.title ?? null),
    part('description', was.description ?? null, is.description ?? null),
    ...args,
    ...annotations,
    part('result', shown(was.outputSchema), shown(is.outputSchema)),
    part('task', shown(was.taskOnly), shown(is.taskOnly)),
  ].filter((one) => one.before !== one.after);
  // Something that none of these show, such as a condition over several arguments.
  return parts.length > 0 || same(was, is)
    ? parts
    : [part('schema', shown(was.inputSchema), shown(is.inputSchema))].filter((one) => one.before !== one.after);
}

const part = (at: string, before: string | null, after: string | null): ToolPart => ({ at, before, after });
const entries = (object: JsonObject | undefined) => Object.entries(object ?? {});
const union = (one: readonly [string, unknown][], other: readonly [string, unknown][]): string[] => [
  ...new Set([...one, ...other].map(([name]) => name)),
];
const shown = (value: unknown): string | null => (value === undefined ? null : text(value as Json));

/** Describes an argument: type, whether it is required, and description. */
function worded(schema: JsonSchema | undefined, tool: ToolDescription, name: string): string | null {
  if (!schema) return null;
  const { description, ...rest } = schema;
  const { type, ...more } = rest;
  const words = [
    typeof type === 'string' ? type : shown(type),
    isRequired(tool, name) ? 'required' : null,
    Object.keys(more).length > 0 ? text(more) : null,
    typeof description === 'string' ? description : null,
  ];
  return words.filter(Boolean).join(', ');
}

const isRequired = ({ inputSchema }: ToolDescription, name: string) =>
  Array.isArray(inputSchema.required) && inputSchema.required.includes(name);

function breaksOf(was: ToolDescription, is: ToolDescription): string[] {
  const before = new Map(argumentsOf(was));
  const after = new Map(argumentsOf(is));
  const sentences: string[] = [];
  for (const [name, schema] of after) {
    const old = before.get(name);
    if (isRequired(is, name) && !isRequired(was, name)) sentences.push(`Calls without ${name} fail.`);
    if (!old) continue;
    if (text(old.type ?? null) !== text(schema.type ?? null))
      sentences.push(`${name} now accepts ${shown(schema.type) ?? 'anything'}, not ${shown(old.type) ?? 'anything'}.`);
    const left = Array.isArray(schema.enum) ? schema.enum.map(text) : null;
    const lost = Array.isArray(old.enum) && left ? old.enum.filter((one) => !left.includes(text(one))) : [];
    if (lost.length > 0) sentences.push(`${name} no longer accepts ${lost.map(text).join(', ')}.`);
  }
  for (const name of before.keys())
    if (!after.has(name)) sentences.push(`${name} no longer exists; the value set for it is not sent.`);
  if (was.outputSchema && !is.outputSchema) sentences.push('The tool no longer declares an output schema.');
  if (is.taskOnly && !was.taskOnly)
    sentences.push('The tool now runs only as a task, which an ordinary call cannot start.');
  return sentences;
}

/** JSON with the properties in one order. */
function text(value: Json): string {
  if (Array.isArray(value)) return `[${value.map(text).join(', ')}]`;
  if (!isObject(value)) return JSON.stringify(value) ?? 'null';
  const names = Object.keys(value)
    .filter((name) => value[name] !== undefined)
    .sort();
  return `{${names.map((name) => `${JSON.stringify(name)}: ${text(value[name]!)}`).join(', ')}}`;
}

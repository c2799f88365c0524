import { cutTemplate } from '../expression/cut.js';
import { asJson, isObject, type Json, type JsonObject, type JsonSchema, valueAt } from '../json/json.js';
import type { StepDocument } from '../steps/document.js';
import { nameFrom } from '../text/naming.js';
import type { FlowDocument } from './document.js';
import { type Link, readLink } from './graph.js';

/*
 * Changes of a flow document, as an editor makes them. Each is a pure function of the document: the old one stays as it
 * is, so that undoing is going back to it. A place is where steps stand: nothing for the flow, or the parts of the
 * JSON Pointer of a loop's "with".
 */

export type Place = readonly string[];
type Steps = { [name: string]: StepDocument };

export function stepsAt(document: FlowDocument, place: Place): Steps {
  const holder = valueAt(document, place);
  return isObject(holder) && isObject(holder.steps) ? (holder.steps as unknown as Steps) : {};
}

/** The document with something else at a path; undefined takes it out. */
export function withValue(document: FlowDocument, path: readonly PropertyKey[], value: Json | undefined): FlowDocument {
  return put(asJson(document), path, value) as unknown as FlowDocument;
}

function put(here: Json | undefined, [key, ...rest]: readonly PropertyKey[], value: Json | undefined): Json {
  if (key === undefined) return value as Json;
  if (Array.isArray(here)) {
    const list = [...here];
    if (rest.length === 0 && value === undefined) list.splice(Number(key), 1);
    else list[Number(key)] = put(list[Number(key)], rest, value);
    return list;
  }
  const holder = isObject(here) ? here : {};
  const name = String(key);
  if (rest.length > 0 || value !== undefined) return { ...holder, [name]: put(holder[name], rest, value) };
  const { [name]: _, ...others } = holder;
  return others;
}

const withSteps = (document: FlowDocument, place: Place, steps: Steps) =>
  withValue(document, [...place, 'steps'], asJson(steps));

/** A name like this one that no step of the flow has yet, wherever it stands. */
export function freeName(document: FlowDocument, wanted: string): string {
  const taken = new Set(namesIn(asJson(document)));
  const base = nameFrom(wanted).replaceAll('-', '_') || 'step';
  if (!taken.has(base) && base !== 'error' && base !== 'otherwise') return base;
  for (let count = 2; ; count++) if (!taken.has(`${base}_${count}`)) return `${base}_${count}`;
}

function namesIn(value: Json): string[] {
  if (!isObject(value)) return [];
  const own = isObject(value.steps) ? Object.entries(value.steps) : [];
  return own.flatMap(([name, step]) => [name, ...(isObject(step) ? namesIn(step.with ?? null) : [])]);
}

const linkText = ({ from, branch }: Link) => (branch === null ? from : `${from}.${branch}`);

/** A new step, after another one where one is given; with `between`, what came after that one by this link now comes after the new one. */
export function addStep(
  document: FlowDocument,
  place: Place,
  kind: string,
  options: { after?: Link | undefined; before?: string | undefined; with?: JsonObject | undefined } = {},
): { document: FlowDocument; name: string } {
  const name = freeName(document, kind);
  const { after, before } = options;
  const step: StepDocument = {
    kind,
    ...(after && { after: [linkText(after)] }),
    ...(options.with && Object.keys(options.with).length > 0 && { with: options.with }),
  };
  const steps: Steps = {};
  for (const [other, old] of Object.entries(stepsAt(document, place))) {
    const moved = other === before && after && old.after?.includes(linkText(after));
    steps[other] = moved ? { ...old, after: old.after!.map((link) => (link === linkText(after) ? name : link)) } : old;
    if (other === after?.from) steps[name] = step;
  }
  steps[name] ??= step;
  return { document: withSteps(document, place, steps), name };
}

export function changeStep(
  document: FlowDocument,
  place: Place,
  name: string,
  change: Partial<StepDocument>,
): FlowDocument {
  const step = { ...stepsAt(document, place)[name], ...change } as { [key: string]: Json | undefined };
  for (const key of Object.keys(step)) if (step[key] === undefined) delete step[key];
  return withValue(document, [...place, 'steps', name], step as Json);
}

/** Takes steps out; what came after them then comes after what they came after. */
export function removeSteps(document: FlowDocument, place: Place, names: readonly string[]): FlowDocument {
  let steps = { ...stepsAt(document, place) };
  for (const name of names) {
    const before = steps[name]?.after ?? [];
    const { [name]: _, ...rest } = steps;
    steps = Object.fromEntries(
      Object.entries(rest).map(([other, step]) => {
        if (!step.after?.some((link) => readLink(link).from === name)) return [other, step];
        const after = [...new Set(step.after.flatMap((link) => (readLink(link).from === name ? before : [link])))];
        const { after: __, ...bare } = step;
        return [other, after.length > 0 ? { ...bare, after } : bare];
      }),
    );
  }
  return withSteps(document, place, steps);
}

export function connect(document: FlowDocument, place: Place, link: Link, to: string): FlowDocument {
  const step = stepsAt(document, place)[to];
  if (!step || step.after?.includes(linkText(link)) || link.from === to) return document;
  return changeStep(document, place, to, { after: [...(step.after ?? []), linkText(link)] });
}

export function disconnect(document: FlowDocument, place: Place, link: Link, to: string): FlowDocument {
  const after = (stepsAt(document, place)[to]?.after ?? []).filter((one) => one !== linkText(link));
  return changeStep(document, place, to, { after: after.length > 0 ? after : undefined });
}

/** Follows a branch by its new name, wherever a step comes after it. */
export function renameBranch(
  document: FlowDocument,
  place: Place,
  step: string,
  branch: string,
  wanted: string,
): FlowDocument {
  const old = linkText({ from: step, branch });
  const fresh = linkText({ from: step, branch: wanted });
  return Object.entries(stepsAt(document, place)).reduce(
    (now, [name, { after }]) =>
      after?.includes(old)
        ? changeStep(now, place, name, { after: [...new Set(after.map((link) => (link === old ? fresh : link)))] })
        : now,
    document,
  );
}

/** Gives a step another name; links and expressions follow. */
export function renameStep(document: FlowDocument, place: Place, name: string, wanted: string): FlowDocument {
  const steps = Object.fromEntries(
    Object.entries(stepsAt(document, place)).map(([other, step]) => [
      other === name ? wanted : other,
      step.after
        ? {
            ...step,
            after: step.after.map((link) => {
              const { from, branch } = readLink(link);
              return from === name ? linkText({ from: wanted, branch }) : link;
            }),
          }
        : step,
    ]),
  );
  return renameIn(withSteps(document, place, steps), 'steps', name, wanted);
}

/** The document with `steps.OLD` or `input.OLD` replaced in every expression. */
function renameIn(document: FlowDocument, variable: 'steps' | 'input', name: string, wanted: string): FlowDocument {
  const path = new RegExp(`(?<![\\w.])${variable}(\\??\\.)${name}(?![\\w])`, 'g');
  const walk = (value: Json): Json => {
    if (typeof value === 'string')
      return inExpressions(value, (text) => text.replaceAll(path, `${variable}$1${wanted}`));
    if (Array.isArray(value)) return value.map(walk);
    if (!isObject(value)) return value;
    return Object.fromEntries(Object.entries(value).map(([key, inner]) => [key, walk(inner)]));
  };
  return walk(asJson(document)) as unknown as FlowDocument;
}

function inExpressions(text: string, change: (expression: string) => string): string {
  if (!text.includes('${')) return text;
  try {
    let changed = '';
    let at = 0;
    for (const piece of cutTemplate(text)) {
      if (!('expression' in piece)) continue;
      const end = text.indexOf(piece.expression, piece.offset) + piece.expression.length;
      changed += text.slice(at, piece.offset) + change(text.slice(piece.offset, end));
      at = end;
    }
    return changed + text.slice(at);
  } catch {
    return text;
  }
}

/** The same steps once more, linked among themselves; what they came after outside they come after as well. */
export function duplicateSteps(
  document: FlowDocument,
  place: Place,
  names: readonly string[],
): { document: FlowDocument; names: string[] } {
  const steps = stepsAt(document, place);
  return takeIn(document, place, Object.fromEntries(names.map((name) => [name, steps[name]!])), true);
}

/** Steps as text, to be pasted into this flow or another one. */
export function copyText(document: FlowDocument, place: Place, names: readonly string[]): string {
  const steps = stepsAt(document, place);
  const taken = Object.fromEntries(names.filter((name) => steps[name]).map((name) => [name, steps[name]!]));
  return JSON.stringify({ steps: taken }, null, 2);
}

/** Takes steps in. Names that are taken become others, and what refers to them follows. */
export function takeIn(
  document: FlowDocument,
  place: Place,
  steps: Steps,
  keepOuter = false,
): { document: FlowDocument; names: string[] } {
  let part = { ...document, steps } as FlowDocument;
  let whole = document;
  const names: string[] = [];
  for (const name of Object.keys(steps)) {
    const fresh = freeName(whole, name);
    if (fresh !== name) part = renameStep(part, [], name, fresh);
    whole = withValue(whole, [...place, 'steps', fresh], { kind: 'text' });
    names.push(fresh);
  }
  const known = stepsAt(document, place);
  const kept = Object.fromEntries(
    Object.entries(part.steps).map(([name, step]) => {
      const { after, ...bare } = step;
      const links = after?.filter(
        (link) => names.includes(readLink(link).from) || (keepOuter && Object.hasOwn(known, readLink(link).from)),
      );
      return [name, links?.length ? { ...bare, after: links } : bare];
    }),
  );
  return { document: withSteps(document, place, { ...known, ...(kept as Steps) }), names };
}

/** Declares an input of the flow. */
export function putInput(document: FlowDocument, name: string, schema: JsonSchema, required: boolean): FlowDocument {
  const input: JsonObject = document.input ?? { type: 'object', properties: {} };
  const needed = (Array.isArray(input.required) ? input.required : []).filter((one) => one !== name);
  const all = required ? [...needed, name] : needed;
  const { required: _, ...bare } = input;
  const properties = { ...(isObject(input.properties) ? input.properties : {}), [name]: schema };
  return withValue(document, ['input'], {
    ...bare,
    type: 'object',
    ...(all.length > 0 && { required: all }),
    properties,
  });
}

export function removeInput(document: FlowDocument, name: string): FlowDocument {
  const properties = { ...(isObject(document.input?.properties) ? document.input.properties : {}) };
  delete properties[name];
  const needed = (Array.isArray(document.input?.required) ? document.input.required : []).filter((one) => one !== name);
  const { required: _, ...bare } = document.input ?? {};
  if (Object.keys(properties).length === 0) return withValue(document, ['input'], undefined);
  return withValue(document, ['input'], { ...bare, ...(needed.length > 0 && { required: needed }), properties });
}

/** Gives an input another name; expressions follow. */
export function renameInput(document: FlowDocument, name: string, wanted: string): FlowDocument {
  const input = document.input ?? {};
  const properties = Object.fromEntries(
    Object.entries(isObject(input.properties) ? input.properties : {}).map(([key, schema]) => [
      key === name ? wanted : key,
      schema,
    ]),
  );
  const required = Array.isArray(input.required)
    ? input.required.map((one) => (one === name ? wanted : one))
    : undefined;
  const renamed = withValue(document, ['input'], { ...input, ...(required && { required }), properties });
  return renameIn(renamed, 'input', name, wanted);
}

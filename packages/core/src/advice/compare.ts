import { diffLines } from 'diff';
import type { FlowDocument } from '../flow/document.js';
import { asJson, isObject, type Json, pointer } from '../json/json.js';
import type { StepDocument } from '../steps/document.js';
import type { ChangeKind, FlowChange, FlowComparison, Line } from './flow-change.js';

export type { ChangeKind, FlowChange, FlowComparison, Line };

/**
 * Compares two flows, value by value and line by line.
 * @param before document and text of the older version
 * @param after document and text of the newer version
 * @returns changes, how each step differs, and the lines of both texts
 */
export function compareFlows(
  before: { document: FlowDocument; text: string },
  after: { document: FlowDocument; text: string },
): FlowComparison {
  const changes: FlowChange[] = [];
  const moved = whereSteps(before.document) !== whereSteps(after.document);
  const steps: FlowComparison['steps'] = {};
  const old = unplaced(before.document.steps);
  const now = unplaced(after.document.steps);
  for (const name of Object.keys(old)) if (!(name in now)) steps[name] = 'removed';
  for (const [name, step] of Object.entries(now)) {
    if (!Object.hasOwn(old, name)) steps[name] = 'added';
    else if (!same(old[name] as Json, step as Json)) steps[name] = 'changed';
  }
  for (const [name, change] of Object.entries(steps)) {
    if (change === 'changed') changes.push(...changesIn(old[name] as Json, now[name] as Json, ['steps', name]));
    else
      changes.push({ at: pointer(['steps', name]), change, what: stepWords(name, (now[name] ?? old[name])!, change) });
  }
  const rest = ({ steps: _, ...document }: FlowDocument) => asJson(document);
  changes.unshift(...changesIn(rest(before.document), rest(after.document), []));
  if (moved) changes.push({ at: '/steps', change: 'changed', what: 'Node positions changed' });
  return { changes, steps, lines: compareLines(before.text, after.text) };
}

type Steps = FlowDocument['steps'];
/** Where cards stand is nothing that a flow does, and told in one line. */
const unplaced = (steps: Steps): Steps =>
  Object.fromEntries(Object.entries(steps).map(([name, { place: _, ...step }]) => [name, step]));
const whereSteps = ({ steps }: FlowDocument) =>
  JSON.stringify(Object.entries(steps).flatMap(([name, { place }]) => (place ? [[name, place]] : [])));

const stepWords = (name: string, step: StepDocument, change: ChangeKind) => `Step ${name} (${step.kind}): ${change}`;

function changesIn(before: Json, after: Json, at: PropertyKey[]): FlowChange[] {
  if (same(before, after)) return [];
  if (!isObject(before) || !isObject(after))
    return [{ at: pointer(at), change: 'changed', what: words(at, 'changed'), before, after }];
  const names = [...new Set([...Object.keys(before), ...Object.keys(after)])];
  return names.flatMap((name): FlowChange[] => {
    const here = [...at, name];
    if (!Object.hasOwn(after, name))
      return [{ at: pointer(here), change: 'removed', what: words(here, 'removed'), before: before[name]! }];
    if (!Object.hasOwn(before, name))
      return [{ at: pointer(here), change: 'added', what: words(here, 'added'), after: after[name]! }];
    return changesIn(before[name]!, after[name]!, here);
  });
}

/** `steps/book/with/row/by` as people say it. */
function words(at: PropertyKey[], change: ChangeKind): string {
  const parts = at.map(String);
  if (parts[0] === 'steps') {
    const inside = parts.slice(2).filter((part) => part !== 'with');
    return `Step ${parts[1]}: ${inside.join(' › ') || 'it'} ${change}`;
  }
  if (parts[0] === 'input' && parts[1] === 'properties' && parts[2])
    return `Input ${parts.slice(2).join(' › ')}: ${change}`;
  if (parts[0] === 'input' && parts[1] === 'required') return 'Required inputs changed';
  return `${parts.join(' › ').replace(/^./, (letter) => letter.toUpperCase())} was ${change}`;
}

/** Diffing is quadratic in the differences: beyond this many lines all are reported as new. */
const MOST_DIFFERENT = 2000;

/**
 * Compares two texts line by line.
 * @param before the first text
 * @param after the second text
 * @returns lines in order, signed ` `, `-` or `+`
 */
export function compareLines(before: string, after: string): Line[] {
  const whole = [
    { removed: true, added: false, value: before },
    { removed: false, added: true, value: after },
  ].filter(({ value }) => value !== '');
  const parts = (whole.length === 2 && diffLines(before, after, { maxEditLength: MOST_DIFFERENT })) || whole;
  return parts.flatMap(({ added, removed, value }) =>
    value
      .replace(/\n$/, '')
      .split('\n')
      .map((text): Line => ({ sign: added ? '+' : removed ? '-' : ' ', text })),
  );
}

function same(a: Json | undefined, b: Json | undefined): boolean {
  return JSON.stringify(sorted(a)) === JSON.stringify(sorted(b));
}

/** The order of names says nothing. */
function sorted(value: Json | undefined): Json | undefined {
  if (Array.isArray(value)) return value.map((item) => sorted(item)!);
  if (!isObject(value)) return value;
  return Object.fromEntries(
    Object.keys(value)
      .sort()
      .map((name) => [name, sorted(value[name])!]),
  );
}

import type { StepDocument } from '../steps/document.js';

export interface Link {
  from: string;
  branch: string | null;
}

/**
 * Parses a link: `a.yes` follows a branch, and a name without one the default branch.
 * @param text as in `after`
 * @returns the step and the branch
 */
export function readLink(text: string): Link {
  const dot = text.indexOf('.');
  return dot < 0 ? { from: text, branch: null } : { from: text.slice(0, dot), branch: text.slice(dot + 1) };
}

export interface Graph {
  /** What each step comes after. */
  before: Map<string, Link[]>;
  /** Which steps come after each. */
  next: Map<string, string[]>;
  /** The steps of one cycle in order, when there is one. */
  cycle: string[] | null;
}

/**
 * Builds the graph of a flow, without links to missing steps.
 * @param steps of a document, by name
 * @returns predecessors, successors, and a cycle if there is one
 */
export function graphOf(steps: { [name: string]: StepDocument }): Graph {
  const before = new Map<string, Link[]>();
  const next = new Map<string, string[]>(Object.keys(steps).map((name) => [name, []]));
  for (const [name, step] of Object.entries(steps)) {
    const links = (step.after ?? []).map(readLink).filter((link) => Object.hasOwn(steps, link.from));
    before.set(name, links);
    for (const from of new Set(links.map((link) => link.from))) next.get(from)!.push(name);
  }
  return { before, next, cycle: findCycle(before) };
}

function findCycle(before: Map<string, Link[]>): string[] | null {
  const settled = new Set<string>();
  for (const start of before.keys()) {
    // Depth first with a stack of our own: a thousand steps in a row must not overflow the call stack.
    const path: { name: string; left: string[] }[] = [];
    const open = new Set<string>();
    const enter = (name: string) => {
      open.add(name);
      path.push({ name, left: (before.get(name) ?? []).map((link) => link.from) });
    };
    if (!settled.has(start)) enter(start);
    while (path.length > 0) {
      const here = path.at(-1)!;
      const name = here.left.pop();
      if (name === undefined) {
        settled.add(here.name);
        open.delete(here.name);
        path.pop();
      } else if (open.has(name)) {
        const names = path.map((part) => part.name);
        return names.slice(names.indexOf(name)).reverse();
      } else if (!settled.has(name)) enter(name);
    }
  }
  return null;
}

/**
 * Returns whether a step comes after another one, directly or indirectly. Checks near ones first.
 * @param graph of the flow
 * @param name of the step
 * @param other name of the step that may come before it
 * @returns true if `other` precedes `name`
 */
export function comesAfter(graph: Graph, name: string, other: string): boolean {
  const seen = new Set([name]);
  const queue = [name];
  for (let at = 0; at < queue.length; at++) {
    for (const { from } of graph.before.get(queue[at]!) ?? []) {
      if (from === other) return true;
      if (seen.has(from)) continue;
      seen.add(from);
      queue.push(from);
    }
  }
  return false;
}

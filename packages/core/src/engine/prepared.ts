import { PindroError } from '../errors/errors.js';
import { readsVariable } from '../expression/cut.js';
import { Template } from '../expression/template.js';
import { type FlowDocument, inputSchema } from '../flow/document.js';
import { graphOf, type Link } from '../flow/graph.js';
import { type Json, type JsonObject, type JsonSchema, pointer } from '../json/json.js';
import type { StepDocument } from '../steps/document.js';
import type { Body, StepKind } from '../steps/kind.js';
import { stepKind } from '../steps/registry.js';

export interface PreparedStep {
  name: string;
  /** JSON Pointer of the step in its document. */
  at: string;
  document: StepDocument;
  kind: StepKind;
  /** Settings that the kind evaluates itself. */
  raw: JsonObject;
  rawParts: ReadonlySet<string>;
  config: Template;
  /** Whether it may be done twice without harm. */
  repeatable: boolean;
  /** What it comes after, step by step; branches of one step are alternatives. */
  before: [from: string, links: Link[]][];
  /** Branches that plain successors do not follow. */
  asides: Set<string>;
  /** Branches that some step follows. */
  followed: Set<string>;
  /** The steps inside of it, where it has some. */
  body: PreparedGraph | null;
}

/** Steps and what comes after what, made ready to run many times. */
export interface PreparedGraph {
  steps: Map<string, PreparedStep>;
  next: Map<string, string[]>;
  result: Template | null;
  /** Whether every step in it may be done twice without harm. */
  repeatable: boolean;
}

export interface PreparedFlow {
  document: FlowDocument;
  input: JsonSchema;
  graph: PreparedGraph;
}

const prepared = new WeakMap<FlowDocument, PreparedFlow>();

/** Prepares a checked document, once for each. */
export function prepareFlow(document: FlowDocument): PreparedFlow {
  const known = prepared.get(document);
  if (known) return known;
  const graph = prepareGraph(document, [], document.name);
  const flow = { document, input: inputSchema(document), graph };
  prepared.set(document, flow);
  return flow;
}

function prepareGraph(body: Body, at: PropertyKey[], flow: string): PreparedGraph {
  const graph = graphOf(body.steps);
  const steps = new Map(
    Object.entries(body.steps).map(([name, step]) => [
      name,
      prepareStep(name, step, [...at, 'steps', name], graph.before.get(name)!, flow),
    ]),
  );
  for (const links of graph.before.values())
    for (const { from, branch } of links) if (branch) steps.get(from)!.followed.add(branch);
  return {
    steps,
    next: graph.next,
    result: body.result === undefined ? null : new Template(body.result as Json, [...at, 'result']),
    repeatable: [...steps.values()].every((step) => step.repeatable),
  };
}

function prepareStep(
  name: string,
  document: StepDocument,
  at: PropertyKey[],
  links: readonly Link[],
  flow: string,
): PreparedStep {
  const kind = stepKind(document.kind);
  if (!kind)
    throw new PindroError('flow_broken', { flow, why: `step "${name}" has an unknown kind "${document.kind}"` });
  const given = document.with ?? {};
  const { reads = '', parts = [] } = kind.late ?? {};
  const late = parts.some((key) => readsVariable(given[key], reads)) ? parts : [];
  const isRaw = (key: string) => kind.raw?.includes(key) || late.includes(key);
  const raw = Object.fromEntries(Object.entries(given).filter(([key]) => isRaw(key)));
  const filled = Object.fromEntries(Object.entries(given).filter(([key]) => !isRaw(key)));
  const asides = kind.branches(given).filter((branch) => branch.aside);
  const body = kind.body?.(given) ?? null;
  const inner = body && prepareGraph(body, [...at, 'with'], flow);
  return {
    name,
    at: pointer(at),
    document,
    kind,
    raw,
    rawParts: new Set(Object.keys(raw)),
    config: new Template(filled, [...at, 'with']),
    repeatable: kind.repeatable(given) && (inner?.repeatable ?? true),
    before: groupByStep(links),
    asides: new Set([...asides.map((branch) => branch.name), 'error']),
    followed: new Set(),
    body: inner,
  };
}

function groupByStep(links: readonly Link[]): [string, Link[]][] {
  const groups = new Map<string, Link[]>();
  for (const link of links) {
    const group = groups.get(link.from);
    if (group) group.push(link);
    else groups.set(link.from, [link]);
  }
  return [...groups];
}

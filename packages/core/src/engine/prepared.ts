import { PindroError } from '../errors.js';
import { Template } from '../expression/template.js';
import { type FlowDocument, inputSchema, type StepDocument } from '../flow/document.js';
import { type Graph, graphOf } from '../flow/graph.js';
import type { JsonObject, JsonSchema } from '../json.js';
import type { StepKind } from '../steps/kind.js';
import { stepKind } from '../steps/registry.js';

export interface PreparedStep {
  name: string;
  document: StepDocument;
  kind: StepKind;
  raw: JsonObject;
  config: Template;
  /** Branches that plain successors do not follow. */
  asides: Set<string>;
  /** Branches that some step follows. */
  followed: Set<string>;
}

/** A flow made ready to run many times. */
export interface PreparedFlow {
  document: FlowDocument;
  input: JsonSchema;
  graph: Graph;
  steps: Map<string, PreparedStep>;
  result: Template | null;
}

const prepared = new WeakMap<FlowDocument, PreparedFlow>();

/** Prepares a checked document, once for each. */
export function prepareFlow(document: FlowDocument): PreparedFlow {
  const known = prepared.get(document);
  if (known) return known;
  const graph = graphOf(document.steps);
  const steps = new Map(
    Object.entries(document.steps).map(([name, step]) => [name, prepareStep(name, step, document)]),
  );
  for (const links of graph.before.values()) {
    for (const { from, branch } of links) if (branch) steps.get(from)!.followed.add(branch);
  }
  const flow = {
    document,
    input: inputSchema(document),
    graph,
    steps,
    result: document.result === undefined ? null : new Template(document.result, ['result']),
  };
  prepared.set(document, flow);
  return flow;
}

function prepareStep(name: string, document: StepDocument, flow: FlowDocument): PreparedStep {
  const kind = stepKind(document.kind);
  if (!kind)
    throw new PindroError('flow_broken', {
      flow: flow.name,
      why: `step "${name}" is of an unknown kind "${document.kind}"`,
    });
  const given = document.with ?? {};
  const raw = Object.fromEntries(Object.entries(given).filter(([key]) => kind.raw?.includes(key)));
  const filled = Object.fromEntries(Object.entries(given).filter(([key]) => !kind.raw?.includes(key)));
  const asides = kind.branches(given).filter((branch) => branch.aside);
  return {
    name,
    document,
    kind,
    raw,
    config: new Template(filled, ['steps', name, 'with']),
    asides: new Set([...asides.map((branch) => branch.name), 'error']),
    followed: new Set(),
  };
}

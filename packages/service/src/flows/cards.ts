import type { StepCard, StepLink } from '@pindro/contract';
import { type FlowDocument, graphOf, isObject, type JsonObject, readLink, stepKind } from '@pindro/core';

/** What each step says about itself, for the canvas. */
export function cardsOf(document: FlowDocument): StepCard[] {
  return Object.entries(document.steps).map(([name, step]) => {
    const kind = stepKind(step.kind);
    const given = step.with ?? {};
    return {
      name,
      kind: step.kind,
      title: step.title ?? name.replaceAll('_', ' '),
      sentence: (kind?.sentence(given) ?? []) as StepCard['sentence'],
      tools: step.kind === 'agent' ? toolRows(given) : [],
    };
  });
}

export function linksOf(document: FlowDocument): StepLink[] {
  const known = graphOf(document.steps).next;
  return Object.entries(document.steps).flatMap(([to, step]) =>
    (step.after ?? [])
      .map(readLink)
      .filter((link) => known.has(link.from))
      .map((link) => ({ from: link.from, to, branch: link.branch })),
  );
}

function toolRows(config: JsonObject): StepCard['tools'] {
  const rows = Array.isArray(config.toolbox) ? config.toolbox.filter(isObject) : [];
  return rows.map((row) => {
    const from = row.endpoint
      ? `endpoint ${row.endpoint}`
      : row.server
        ? `tool server ${row.server}`
        : `flow ${row.flow}`;
    const use = Array.isArray(row.use) ? row.use.join(', ') : row.flow ? String(row.name ?? row.flow) : 'all tools';
    const changes = isObject(row.tools) ? Object.entries(row.tools) : [];
    const set = changes.flatMap(([tool, change]) => {
      const rules = isObject(change) && isObject(change.arguments) ? Object.entries(change.arguments) : [];
      return rules
        .filter(([, rule]) => isObject(rule) && 'set' in rule)
        .map(([name, rule]) => `${tool}.${name} = ${JSON.stringify((rule as JsonObject).set)}`);
    });
    return { from, use, set };
  });
}

/** Whether one can talk to a flow: it has an agent and takes a message. */
export function isConversational(document: FlowDocument): boolean {
  const properties = isObject(document.input?.properties) ? document.input.properties : {};
  return 'message' in properties && Object.values(document.steps).some((step) => step.kind === 'agent');
}

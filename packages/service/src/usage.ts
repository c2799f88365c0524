import { allSteps, type References, stepKind } from '@pindro/core';
import type { EndpointStore } from './endpoints/store.js';
import type { FlowStore } from './flows/store.js';

/** What uses a thing, as words for people: `flow "send-load"`, `endpoint "huts"`. */
export function usersOf(sort: keyof References, name: string, flows: FlowStore, endpoints: EndpointStore): string[] {
  const inFlows = flows
    .all()
    .filter((flow) =>
      [...allSteps(flow.document.steps)].some(({ step }) =>
        stepKind(step.kind)
          ?.references(step.with ?? {})
          [sort]?.includes(name),
      ),
    )
    .map((flow) => `flow "${flow.name}"`);
  if (sort !== 'servers') return inFlows;
  const inEndpoints = endpoints.names().filter((endpoint) => {
    const { tools, servers } = endpoints.get(endpoint);
    return name in servers || Object.values(tools).some((entry) => 'server' in entry && entry.server === name);
  });
  return [...inFlows, ...inEndpoints.map((endpoint) => `endpoint "${endpoint}"`)];
}

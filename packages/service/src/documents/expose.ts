import { nameFrom, ownOf, PindroError } from '@pindro/core';
import type { EndpointStore } from '../endpoints/store.js';
import type { FlowStore } from '../flows/store.js';

interface Parts {
  flows: FlowStore;
  endpoints: EndpointStore;
}

const toolOf = (flow: string) => flow.replaceAll('-', '_');

/** Refuses an endpoint on which one of the names is another tool. @throws already_there, name_refused */
export function requireFreeTools(endpoint: string, flows: readonly string[], { endpoints }: Parts): void {
  if (nameFrom(endpoint) !== endpoint)
    throw new PindroError('request_invalid', { why: `"${endpoint.slice(0, 80)}" is not a valid endpoint name` });
  const tools = endpoints.find(endpoint)?.tools;
  for (const flow of flows) {
    const other = ownOf(tools, toolOf(flow));
    if (other && !('flow' in other && other.flow === flow))
      throw new PindroError('already_there', { what: `tool on endpoint "${endpoint}"`, name: toolOf(flow) });
  }
}

/** Publishes flows that are not live, and adds each to an endpoint as a tool. @returns the names of the tools */
export async function exposeAll(endpoint: string, names: readonly string[], parts: Parts): Promise<string[]> {
  const { flows, endpoints } = parts;
  await flows.drafts.look(names.map((name) => flows.drafts.get(name)));
  for (const name of names) {
    if (flows.drafts.get(name).live === null) flows.revisions.publish(name);
    endpoints.expose(endpoint, toolOf(name), { flow: name });
  }
  return names.map(toolOf);
}

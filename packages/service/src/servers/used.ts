import type { ServerDetail } from '@pindro/contract';
import { ANY_EFFECT, effectsOf, select } from '@pindro/core';
import type { EndpointStore } from '../endpoints/store.js';
import type { FlowStore } from '../flows/store.js';

/** Who uses the tools of a server, with the tools that they choose among those it has. */
export function usedTools(
  server: string,
  tools: readonly string[],
  { flows, endpoints }: { flows: FlowStore; endpoints: EndpointStore },
): ServerDetail['usedTools'] {
  const used: ServerDetail['usedTools'] = [];
  for (const flow of flows.drafts.all()) {
    const own = new Set<string>();
    effectsOf(flow.document, (use) => {
      if ('server' in use && use.server === server) for (const tool of select(tools, use.use).chosen) own.add(tool);
      return ANY_EFFECT;
    });
    if (own.size > 0) used.push({ by: `flow "${flow.name}"`, tools: [...own].sort() });
  }
  for (const name of endpoints.passingOn(server)) {
    const { tools: entries, servers } = endpoints.get(name);
    const passed = Object.hasOwn(servers, server) ? [...tools] : [];
    const chosen = Object.values(entries).flatMap((one) =>
      'server' in one && one.server === server ? [one.tool] : [],
    );
    used.push({ by: `endpoint "${name}"`, tools: [...new Set([...passed, ...chosen])].sort() });
  }
  return used;
}

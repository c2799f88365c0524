import { asJson, type JsonObject, PindroError, type ToolboxEntry, toolboxAsTools } from '@pindro/core';
import type { FlowStore } from '../flows/store.js';
import type { ServerStore } from '../servers/store.js';
import type { EndpointStore } from './store.js';
import { stepWithToolbox } from './toolbox-step.js';

interface Parts {
  store: EndpointStore;
  flows: FlowStore;
  servers: ServerStore;
}

/**
 * Moves the tools of an agent's toolbox to an endpoint, which replaces them in the draft.
 * @param at JSON Pointer of the agent step
 */
export async function moveToolbox(
  { store, flows, servers }: Parts,
  flow: string,
  at: string,
  endpoint: string,
): Promise<void> {
  const { document: here, updatedAt } = flows.drafts.get(flow);
  const { document, config } = stepWithToolbox(here, at);
  const { tools, rest } = toolboxAsTools(config.toolbox, servers.repository.allTools());
  const names = Object.keys(tools);
  if (names.length === 0)
    throw new PindroError('request_invalid', { why: 'All tools of the toolbox are on an endpoint already' });
  const before = store.find(endpoint);
  const taken = names.find((name) => before && name in before.tools);
  if (taken) throw new PindroError('already_there', { what: `tool on endpoint "${endpoint}"`, name: taken });
  // Other tools on the endpoint do not become part of this toolbox.
  const row: JsonObject = before && Object.keys(before.tools).length > 0 ? { endpoint, use: names } : { endpoint };
  config.toolbox = [row as unknown as ToolboxEntry, ...rest];
  const { draft } = await flows.drafts.draw(flow, document);
  flows.drafts.requireVersion(flow, updatedAt);
  store.save({
    ...(before
      ? asJson(before)
      : {
          format: 'pindro/endpoint@1',
          name: endpoint,
          title: endpoint.replaceAll('-', ' '),
        }),
    tools: { ...(before && asJson(before.tools)), ...tools },
  });
  flows.drafts.keepDraft(flow, draft);
}

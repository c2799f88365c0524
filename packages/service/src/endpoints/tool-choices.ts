import type { ToolChoice } from '@pindro/contract';
import type { FlowStore } from '../flows/store.js';
import type { ServerStore } from '../servers/store.js';
import type { EndpointStore } from './store.js';

interface Parts {
  store: EndpointStore;
  flows: FlowStore;
  servers: ServerStore;
}

/** All tools that there are to choose among, without their schemas: those are asked for of what was chosen. */
export function toolChoices({ store, flows, servers }: Parts): ToolChoice[] {
  const ofServers = servers.names().flatMap((source) => {
    const held = servers.repository.heldOf(source);
    return servers.repository.seen(source).map(({ name, title = '', description = '', taskOnly }): ToolChoice => {
      const why = held.find((one) => one.name === name)?.why;
      const note = why !== undefined ? `on hold: ${why}` : taskOnly ? 'runs only as a task' : '';
      return { from: 'server', source, tool: name, title, description, note };
    });
  });
  const ofEndpoints = store.names().flatMap((source) =>
    store.served(source, 'draft').map(
      ({ name, title = '', description, trouble }): ToolChoice => ({
        ...{ from: 'endpoint', source, tool: name, title, description, note: trouble ?? '' },
      }),
    ),
  );
  const ofFlows = flows.drafts.all().map(({ name, document, live }): ToolChoice => {
    const isAgent = Object.values(document?.steps ?? {}).some(({ kind }) => kind === 'agent');
    const notes = [...(isAgent ? ['an agent'] : []), ...(live === null ? ['not published yet'] : [])];
    const { title = '', description = '' } = document ?? {};
    return { from: 'flow', source: name, tool: name, title, description, note: notes.join(', ') };
  });
  return [...ofServers, ...ofEndpoints, ...ofFlows];
}

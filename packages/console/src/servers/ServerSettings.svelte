<script lang="ts">
import type { ServerDetail } from '@pindro/contract/light';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import EditWindow from '../parts/EditWindow.svelte';
import { api } from '../state/api.js';

/** Where a tool server is, what goes along, and who supplies arguments on all of its tools. */
let { server, open = $bindable() }: { server: ServerDetail; open: boolean } = $props();
const SCHEMA: JsonSchema = {
  type: 'object',
  required: ['url'],
  properties: {
    url: { type: 'string', title: 'Address' },
    credential: { form: 'credential', title: 'Credential', description: 'What goes along, if anything' },
    secret: {
      type: 'string',
      writeOnly: true,
      title: 'A new bearer key',
      description: 'Makes or renews its credential',
    },
    also: {
      type: 'array',
      items: { form: 'credential' },
      title: 'Further credentials',
      description: 'What goes along besides',
    },
    headers: {
      type: 'object',
      additionalProperties: { type: 'string' },
      title: 'Headers',
      description: "That are nobody's secret",
    },
    rules: {
      form: 'server-rules',
      title: 'Arguments',
      description: 'Who supplies an argument of that name, on every tool of the server that has it',
    },
  },
};
// svelte-ignore state_referenced_locally
const value: JsonObject = {
  server: server.name,
  url: server.url,
  ...(server.credential && { credential: server.credential }),
  ...(server.also.length > 0 && { also: server.also }),
  ...(Object.keys(server.headers).length > 0 && { headers: server.headers }),
  ...(Object.keys(server.rules).length > 0 && { rules: server.rules as JsonObject }),
};
const save = ({ server: _, secret, ...given }: JsonObject, untested: boolean) =>
  api.changeServer({
    name: server.name,
    body: {
      ...{ credential: null, also: [], headers: {}, rules: {} },
      ...given,
      ...(secret !== undefined && { secret }),
      untested,
    } as never,
  });
</script>

<EditWindow
  bind:open
  title="Tool server {server.name}"
  about="It is asked for its tools before the change is kept."
  schema={SCHEMA}
  {value}
  {save}
  tried
/>

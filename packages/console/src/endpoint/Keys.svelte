<script lang="ts">
import { type EndpointDetail, WORKSHOP } from '@pindro/contract/light';
import { Keyring } from '../keys/keyring.svelte.js';
import KeyRows from '../keys/KeyRows.svelte';
import MakeKey from '../keys/MakeKey.svelte';
import { keySchema } from '../keys/schema.js';
import Empty from '../parts/list/Empty.svelte';

/** Keys that open an endpoint, and new ones with just what they need. */
let { endpoint }: { endpoint: EndpointDetail } = $props();
const ring = new Keyring();
const ownServers = $derived([
  ...new Set(
    endpoint.toolList.flatMap(({ credential, target }) => (credential === 'caller' ? [target.split('.')[0]!] : [])),
  ),
]);
const schema = $derived(
  keySchema({
    endpoint: endpoint.name,
    tools: endpoint.toolList.map((tool) => tool.name),
    ownServers,
    workshop: endpoint.name === WORKSHOP,
  }),
);
</script>

{#if endpoint.keyList.length === 0 && !ring.made}
  <Empty title="No keys for this endpoint">
    Issue one below, or with <code class="chip">pindro key issue NAME --endpoint {endpoint.name}</code>.
  </Empty>
{:else}
  <KeyRows keys={endpoint.keyList} {ring} />
{/if}
<section class="panel mt-6" aria-labelledby="new-key">
  <h2 id="new-key" class="mb-3">New key</h2>
  <MakeKey {ring} {schema} endpoint={endpoint.name} />
</section>

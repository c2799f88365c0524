<script lang="ts">
import type { FlowDetail } from '@pindro/contract/light';
import Loaded from '../../parts/text/Loaded.svelte';
import { api } from '../../state/api.js';
import { Resource } from '../../state/resource.svelte.js';
import Differences from './Differences.svelte';

/** Two revisions, drawn together and line by line. */
let { flow, from, to }: { flow: FlowDetail; from: string; to: string } = $props();
const compared = new Resource(
  () => api.compareFlow({ name: flow.name, query: { from: from as 'live', to: to as 'draft' } }),
  ['flow'],
);
</script>

<Loaded from={compared}>
  {#snippet children(now)}
    <Differences {now} />
  {/snippet}
</Loaded>

<script lang="ts">
import FlowEditor from '../editor/FlowEditor.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

let { name }: { name: string } = $props();
const flow = new Resource(() => api.getFlow({ name }), ['flow', 'endpoint']);
const kinds = new Resource(() => api.listKinds());
$effect(() => (flow.value ? router.fill() : undefined));
</script>

<Loaded from={flow} page={name}>
  {#snippet children(now)}
    {#if kinds.value}{#key now.name}<FlowEditor flow={now} kinds={kinds.value.items} />{/key}{/if}
  {/snippet}
</Loaded>

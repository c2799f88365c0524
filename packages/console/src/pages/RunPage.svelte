<script lang="ts">
import Loaded from '../parts/text/Loaded.svelte';
import RunView from '../run/RunView.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

let { name: id }: { name: string } = $props();
const run = new Resource(() => api.getRun({ id, query: { brief: 'true' } }), ['run', 'problem']);
$effect(() => (run.value ? router.fill() : undefined));
</script>

<Loaded from={run} page="Run {id}">
  {#snippet children(now)}<RunView run={now} />{/snippet}
</Loaded>

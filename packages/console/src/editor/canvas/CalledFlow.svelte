<script lang="ts">
import FlowCanvas from '../../canvas/FlowCanvas.svelte';
import Loaded from '../../parts/text/Loaded.svelte';
import Window from '../../parts/text/Window.svelte';
import { api } from '../../state/api.js';
import { words } from '../../state/format.js';
import { Resource } from '../../state/resource.svelte.js';

/** A flow that is called, shown where it is called. */
let { name, onClose }: { name: string; onClose: () => void } = $props();
// svelte-ignore state_referenced_locally
const flow = new Resource(() => api.getFlow({ name }), ['flow']);
let open = $state(true);
$effect(() => {
  if (!open) onClose();
});
</script>

<Window bind:open title={flow.value?.title ?? words(name)} about={flow.value?.description}>
  <Loaded from={flow}>
    {#snippet children(now)}
      <h3 class="sr-only">Steps</h3>
      <FlowCanvas cards={now.cards} links={now.links} />
      <p class="mt-4"><a class="link" href="/flows/{name}">Edit this flow</a></p>
    {/snippet}
  </Loaded>
</Window>

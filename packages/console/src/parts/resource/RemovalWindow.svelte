<script lang="ts">
import { removing } from '../../state/removing.svelte.js';
import { thingType } from '../../state/things.js';
import Window from '../text/Window.svelte';

/** What removing something would break, told before it is done. */
const held = $derived(removing.held);
let open = $derived(held !== null);
$effect(() => {
  if (!open) removing.leave();
});
</script>

{#if held}
  <Window bind:open title="Remove {thingType(held.sort).word} {held.name}?" about="Still used by:">
    <ul class="mb-4 list-disc pl-5">
      {#each held.uses as use (use)}<li>{use}</li>{:else}<li>{held.problem.detail}</li>{/each}
    </ul>
    <p class="mb-4 text-soft">What uses it fails until you restore it. You can undo this for ten minutes.</p>
    <div class="flex gap-2">
      <button type="button" class="button button-danger" onclick={() => void removing.goOn()}>Remove anyway</button>
      <button type="button" class="button" onclick={() => removing.leave()}>Keep</button>
    </div>
  </Window>
{/if}

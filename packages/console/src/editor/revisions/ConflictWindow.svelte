<script lang="ts">
import Window from '../../parts/text/Window.svelte';
import Differences from './Differences.svelte';
import type { Editor } from '../session/session.svelte.js';

/** Two people saved one draft: who came second sees the difference and chooses. Nothing is lost either way. */
let { editor }: { editor: Editor } = $props();
let open = $state(true);
const conflict = $derived(editor.conflict!);
// Closing it without a choice leaves both as they are.
$effect(() => {
  if (!open) void editor.settle('theirs');
});
</script>

<Window
  bind:open
  wide
  title="Somebody else saved this draft"
  about="These are the changes of your version to theirs. Undo restores the other one."
>
  <div class="mb-4 flex flex-wrap gap-2">
    <button type="button" class="button button-main" onclick={() => void editor.settle('mine')}> Keep mine </button>
    <button type="button" class="button" onclick={() => void editor.settle('theirs')}>Use theirs</button>
  </div>
  {#if conflict.difference}<Differences now={conflict.difference} />{:else}
    <p class="text-soft">The differences could not be determined.</p>
  {/if}
</Window>

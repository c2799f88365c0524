<script lang="ts">
import type { Editor } from './session.svelte.js';

/** What an earlier page could not save any more. */
let { editor }: { editor: Editor } = $props();
</script>

<div class="editor-notice" role="status">
  <p class="grow">Your last edits here could not be saved. They are still in this browser.</p>
  <button type="button" class="button button-small" onclick={() => editor.takeFound(true)}>Restore</button>
  <button type="button" class="button button-small" onclick={() => editor.takeFound(false)}>Discard</button>
</div>

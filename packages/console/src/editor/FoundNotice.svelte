<script lang="ts">
import type { Editor } from './session.svelte.js';

/** What an earlier page could not save any more. */
let { editor }: { editor: Editor } = $props();
</script>

<div class="editor-notice" role="status">
  <p class="grow">What you typed here last could not be saved then. It is still in this browser.</p>
  <button type="button" class="button button-small" onclick={() => editor.takeFound(true)}>Take it in</button>
  <button type="button" class="button button-small" onclick={() => editor.takeFound(false)}>Let it go</button>
</div>

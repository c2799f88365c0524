<script lang="ts">
import { words } from '../../state/format.js';
import { askHeading } from '../canvas/group-names.js';
import type { Editor } from '../session/session.svelte.js';

/** What can be done with several steps at once. */
let { editor }: { editor: Editor } = $props();
</script>

<p class="mb-3">{editor.selected.map(words).join(', ')}</p>
<div class="flex flex-wrap gap-2">
  <button type="button" class="button" onclick={() => askHeading(editor)}>Group</button>
  <button type="button" class="button" onclick={() => editor.duplicate()}>Duplicate</button>
  <button type="button" class="button" onclick={() => editor.toggle()}>Enable or disable</button>
  <button type="button" class="button" onclick={() => editor.remove()}>Remove</button>
</div>

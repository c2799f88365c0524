<script lang="ts">
import Columns from '@lucide/svelte/icons/columns-2';
import type { KindSummary } from '@pindro/contract/light';
import Build from '../editor/Build.svelte';
import type { Workbench } from '../editor/session/workbench.svelte.js';
import { plural } from '../state/format.js';
import { preferences } from '../state/preferences.svelte.js';
import { DocumentState } from './document-state.svelte.js';

/** The flow as text, next to its drawing if there is space: each follows the other. */
let { bench, kinds, beside }: { bench: Workbench; kinds: KindSummary[]; beside: boolean } = $props();
// svelte-ignore state_referenced_locally
const manuscript = new DocumentState(bench.editor);
const SAID = {
  reading: 'Loading …',
  same: 'Saved',
  typing: 'Typing …',
  unreadable: 'Not saved: it cannot be parsed',
};
</script>

<div class="document" class:document-beside={beside}>
  <section class="document-text" aria-label="The document">
    <div class="document-bar">
      <span role="status" class="text-sm {manuscript.state === 'unreadable' ? 'text-rowan' : 'text-soft'}">
        {SAID[manuscript.state]}{manuscript.faults.length > 0
          ? `, ${plural(manuscript.faults.length, 'mark')}`
          : ''}
      </span>
      <button
        type="button"
        class="button button-small ml-auto hidden lg:inline-flex"
        aria-pressed={beside}
        onclick={() => preferences.set({ documentBeside: !beside })}
        ><Columns size={15} aria-hidden="true" /> Show canvas</button
      >
    </div>
    <div class="document-editor" {@attach manuscript.attach}></div>
  </section>
  {#if beside}<div class="document-canvas"><Build {bench} {kinds} /></div>{/if}
</div>

<script lang="ts">
import Heading from '@lucide/svelte/icons/heading';
import Plus from '@lucide/svelte/icons/plus';
import Redo from '@lucide/svelte/icons/redo-2';
import Search from '@lucide/svelte/icons/search';
import Undo from '@lucide/svelte/icons/undo-2';
import { askHeading } from './group-names.js';
import type { Workbench } from '../session/workbench.svelte.js';

/** What one reaches for while drawing. */
let { bench }: { bench: Workbench } = $props();
const { editor } = $derived(bench);

function pressed(event: KeyboardEvent) {
  if (event.key === 'Enter' && bench.found) editor.select([bench.found]);
}
</script>

<div class="canvas-tools" role="toolbar" aria-label="Canvas">
  <button type="button" class="button button-main button-small" onclick={() => bench.add()}>
    <Plus size={16} aria-hidden="true" /> Add a step
  </button>
  <button
    type="button"
    class="icon-button canvas-tool"
    onclick={editor.undo}
    disabled={!editor.canUndo}
    aria-label="Undo"
    title="Undo (Ctrl Z)"><Undo size={16} aria-hidden="true" /></button
  >
  <button
    type="button"
    class="icon-button canvas-tool"
    onclick={editor.redo}
    disabled={!editor.canRedo}
    aria-label="Redo"
    title="Redo (Ctrl Shift Z)"><Redo size={16} aria-hidden="true" /></button
  >
  <button
    type="button"
    class="icon-button canvas-tool"
    onclick={() => askHeading(editor)}
    disabled={editor.selected.length === 0}
    aria-label="Group selected steps"
    title="Group (H)"><Heading size={16} aria-hidden="true" /></button
  >
  <label class="relative">
    <span class="sr-only">Find a step</span>
    <Search size={15} class="absolute top-2 left-2.5 text-soft" aria-hidden="true" />
    <input
      class="field w-36 py-1 pl-8 text-sm"
      placeholder="Find a step"
      bind:value={bench.search}
      onkeydown={pressed}
    />
  </label>
</div>

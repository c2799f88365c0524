<script lang="ts">
import Copy from '@lucide/svelte/icons/copy';
import Pause from '@lucide/svelte/icons/pause';
import Play from '@lucide/svelte/icons/play';
import Power from '@lucide/svelte/icons/power';
import Trash from '@lucide/svelte/icons/trash-2';
import type { Json } from '@pindro/core/browser';
import type { Editor } from '../session/session.svelte.js';
import type { Trial } from '../try/trial.svelte.js';

interface Props {
  editor: Editor;
  trial: Trial;
  step: string;
  output: Json | undefined;
}
/** What can be done with one step. */
let { editor, trial, step, output }: Props = $props();
const isHeld = $derived(trial.held.includes(step));
const off = $derived(editor.steps[step]?.off === true);
const inside = $derived(editor.place.length > 0);
</script>

<div class="mb-4 flex flex-wrap gap-1.5">
  <button
    type="button"
    class="button button-small"
    onclick={() => void trial.runOnly(step)}
    disabled={trial.busy || trial.lastRun === null || inside}
    title="With the data of the last run"><Play size={15} aria-hidden="true" /> Run this step</button
  >
  {#if !inside}
    <button
      type="button"
      class="button button-small"
      aria-pressed={isHeld}
      disabled={!isHeld && output === undefined}
      onclick={() => void (isHeld ? trial.release(step) : trial.hold(step))}
      ><Pause size={15} aria-hidden="true" /> {isHeld ? 'Remove stub' : 'Stub result'}</button
    >
  {/if}
  <button type="button" class="button button-small" onclick={() => editor.duplicate()}>
    <Copy size={15} aria-hidden="true" /> Duplicate
  </button>
  <button type="button" class="button button-small" aria-pressed={off} onclick={() => editor.toggle()}>
    <Power size={15} aria-hidden="true" />
    {off ? 'Enable' : 'Disable'}
  </button>
  <button type="button" class="button button-small" onclick={() => editor.remove()}>
    <Trash size={15} aria-hidden="true" /> Remove
  </button>
</div>
{#if isHeld}
  <p class="mb-3 rounded-md bg-ochre-wash px-3 py-2 text-sm text-ochre">
    The result is stubbed: trials of the draft use it instead of running the step. Live runs never do.
  </p>
{/if}

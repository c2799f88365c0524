<script lang="ts">
import type { Editor } from '../session/session.svelte.js';

/** The name of a step, by which others refer to it. */
let { editor, step }: { editor: Editor; step: string } = $props();
const uid = $props.id();
let wanted = $derived(step);
const fault = $derived(
  wanted === step
    ? ''
    : !/^[a-z][a-z0-9_]*$/.test(wanted)
      ? 'Lower-case letters, digits and _, starting with a letter.'
      : wanted in editor.steps
        ? 'A step with this name already exists.'
        : wanted === 'error' || wanted === 'otherwise'
          ? 'This name is reserved for a branch.'
          : '',
);

function rename() {
  if (fault === '' && wanted !== step) editor.rename(step, wanted);
}
</script>

<label class="label" for="{uid}-name">Name of the step</label>
<input
  id="{uid}-name"
  class="field mb-1 font-mono"
  bind:value={wanted}
  onblur={rename}
  onkeydown={(event) => event.key === 'Enter' && rename()}
  aria-invalid={fault !== ''}
  spellcheck="false"
/>
<p class="mb-3 text-sm {fault ? 'text-rowan' : 'text-soft'}">
  {fault || 'References follow when you rename it.'}
</p>

<script lang="ts">
import Eye from '@lucide/svelte/icons/eye';
import EyeOff from '@lucide/svelte/icons/eye-off';
import type { HTMLInputAttributes } from 'svelte/elements';

interface Props extends Omit<HTMLInputAttributes, 'value' | 'type'> {
  id: string;
  value: string;
  /** What the field is called where the button is read aloud. */
  label: string;
}
/** A secret that is typed or pasted, hidden unless somebody wants to see it. */
let { id, value = $bindable(), label, class: more = '', ...rest }: Props = $props();
let shown = $state(false);
</script>

<div class="relative {more}">
  <input
    {id}
    class="field pr-10"
    type={shown ? 'text' : 'password'}
    autocomplete="off"
    spellcheck="false"
    bind:value
    {...rest}
  />
  <button
    type="button"
    class="icon-button absolute top-1/2 right-1 -translate-y-1/2"
    aria-label="{shown ? 'Hide' : 'Show'} {label}"
    aria-pressed={shown}
    onclick={() => (shown = !shown)}
  >
    {#if shown}<EyeOff size={16} aria-hidden="true" />{:else}<Eye size={16} aria-hidden="true" />{/if}
  </button>
</div>

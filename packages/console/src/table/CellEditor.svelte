<script lang="ts">
import type { Cursor } from './cursor.svelte.js';

/** The field in a cell that is edited. */
let { cursor }: { cursor: Cursor } = $props();
let field = $state<HTMLInputElement>();
$effect(() => {
  field?.focus();
  if (cursor.type !== 'date') field?.setSelectionRange(field.value.length, field.value.length);
});
</script>

<input
  bind:this={field}
  class="grid-field"
  class:field-faulty={cursor.wrong !== ''}
  type={cursor.type === 'date' ? 'date' : 'text'}
  inputmode={cursor.type === 'number' || cursor.type === 'whole' ? 'decimal' : undefined}
  aria-label="{cursor.name} of row {cursor.row + 1}"
  aria-invalid={cursor.wrong !== ''}
  bind:value={cursor.draft}
  onblur={() => cursor.end(true)}
/>
{#if cursor.wrong}<span class="grid-wrong" role="alert">{cursor.wrong}</span>{/if}

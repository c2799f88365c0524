<script lang="ts">
import { isObject } from '@pindro/core/browser';
import type { Snippet } from 'svelte';
import FieldFrame from '../FieldFrame.svelte';
import type { FieldProps } from '../place.js';

/** Steps inside of a step are drawn, not written: the field leads to their canvas. */
let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
const names = $derived(Object.keys(isObject(props.value) ? props.value : {}));
const step = $derived(String(props.path.at(-3) ?? ''));

function open() {
  if (props.value === undefined) props.onChange({});
  props.place.editor?.open(step);
}
</script>

<FieldFrame {...props} {tools} group>
  {#if names.length > 0}<p class="mb-2 text-sm">{names.join(', ').replaceAll('_', ' ')}</p>{/if}
  <button type="button" class="button button-small" onclick={open}>
    {names.length > 0 ? `Open nested steps (${names.length})` : 'Add nested steps'}
  </button>
</FieldFrame>

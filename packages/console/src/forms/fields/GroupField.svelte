<script lang="ts">
import { isObject, type Json } from '@pindro/core/browser';
import type { Snippet } from 'svelte';
import FieldFrame from '../FieldFrame.svelte';
import Fields from '../Fields.svelte';
import type { FieldProps } from '../place.js';
import { blankOf } from '../shape.js';

/** A group of fields in a frame; an optional one must be added first. */
let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
const value = $derived(isObject(props.value) ? props.value : {});
const isThere = $derived(props.value !== undefined || props.required || props.schema.default !== undefined);
function begin() {
  props.place.begun(props.path);
  props.onChange(blankOf(props.schema));
}

function change(next: { [name: string]: Json }) {
  props.onChange(
    Object.keys(next).length === 0 && !props.required && props.schema.default !== undefined ? undefined : next,
  );
}
</script>

<FieldFrame {...props} {tools} group>
  {#if isThere}
    <Fields {...props} {value} onChange={change} />
    {#if props.value !== undefined && !props.required}
      <button type="button" class="link text-sm" onclick={() => props.onChange(undefined)}>
        Remove<span class="sr-only">: {props.label}</span>
      </button>
    {/if}
  {:else}
    <button type="button" class="button button-small" onclick={begin}
      >Add <span class="sr-only">{props.label}</span></button
    >
  {/if}
</FieldFrame>

<script lang="ts">
import { isObject, type Json, type JsonSchema } from '@pindro/core/browser';
import type { Snippet } from 'svelte';
import FieldFrame from '../FieldFrame.svelte';
import type { FieldProps } from '../place.js';
import ListField from './ListField.svelte';
import RecordField from './RecordField.svelte';
import TextField from './TextField.svelte';
import YesNoField from './YesNoField.svelte';

/** Any value: first what it is, then itself; nested as deep as it goes. */
let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
type Sort = 'text' | 'yes-no' | 'nothing' | 'fields' | 'list';
const SORTS: { sort: Sort; says: string; blank: Json }[] = [
  { sort: 'text', says: 'string or number', blank: '' },
  { sort: 'yes-no', says: 'boolean', blank: false },
  { sort: 'fields', says: 'object', blank: {} },
  { sort: 'list', says: 'array', blank: [] },
  { sort: 'nothing', says: 'null', blank: null },
];
const sort = $derived<Sort>(
  props.value === null
    ? 'nothing'
    : Array.isArray(props.value)
      ? 'list'
      : isObject(props.value)
        ? 'fields'
        : typeof props.value === 'boolean'
          ? 'yes-no'
          : 'text',
);
const { title, description, examples } = $derived(props.schema);
const about = $derived<JsonSchema>({
  ...(title !== undefined && { title }),
  ...(description !== undefined && { description }),
  ...(examples !== undefined && { examples }),
});
</script>

{#snippet sorts()}
  <select
    class="field-sort"
    aria-label="Type of {props.label}"
    value={sort}
    onchange={(event) => props.onChange(SORTS.find((one) => one.sort === event.currentTarget.value)!.blank)}
  >
    {#each SORTS as one (one.sort)}<option value={one.sort}>{one.says}</option>{/each}
  </select>
  {@render tools?.()}
{/snippet}

{#if sort === 'text'}
  <TextField {...props} schema={{ ...about, type: ['string', 'number'] }} tools={sorts} />
{:else if sort === 'yes-no'}
  <YesNoField {...props} schema={about} tools={sorts} />
{:else if sort === 'list'}
  <ListField {...props} schema={{ ...about, type: 'array', items: {} }} required tools={sorts} />
{:else if sort === 'fields'}
  <RecordField {...props} schema={{ ...about, type: 'object', additionalProperties: {} }} required tools={sorts} />
{:else}
  <FieldFrame {...props} schema={about} tools={sorts}><p id={props.id} class="text-soft">nothing</p></FieldFrame>
{/if}

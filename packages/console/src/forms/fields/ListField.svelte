<script lang="ts">
import { kept } from '../blank.js';
import ArrowDown from '@lucide/svelte/icons/arrow-down';
import ArrowUp from '@lucide/svelte/icons/arrow-up';
import Copy from '@lucide/svelte/icons/copy';
import Plus from '@lucide/svelte/icons/plus';
import Trash from '@lucide/svelte/icons/trash-2';
import type { Json, JsonSchema } from '@pindro/core/browser';
import { type Snippet, tick } from 'svelte';
import Field from '../Field.svelte';
import FieldFrame from '../FieldFrame.svelte';
import { columnsAt, toolsAt } from '../known.svelte.js';
import type { FieldProps } from '../place.js';
import { blankOf, shapeOf } from '../shape.js';

/** Rows that are added, moved, copied and removed. */
let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
const shape = $derived(shapeOf(props.schema));
const item = $derived(shape.sort === 'list' ? shape.item : {});
const names = $derived(shape.sort === 'list' ? shape.names : undefined);
// One value where several may stand is shown as a list of one.
const list = $derived(Array.isArray(props.value) ? props.value : props.value === undefined ? [] : [props.value]);
const choices = $derived(
  names === 'column'
    ? columnsAt(props.place, props.path).map((one) => one.name)
    : names === 'tool'
      ? toolsAt(props.place, props.path).flatMap((one) => [one.name, `!${one.name}`])
      : [],
);
const one = $derived(props.label.toLowerCase().replace(/s$/, ''));

function put(next: Json[]) {
  props.onChange(next.length > 0 || props.required ? next : undefined);
}
let rows = $state<HTMLElement>();
async function add() {
  props.place.begun([...props.path, list.length]);
  put([...list, blankOf(item)]);
  await tick();
  // Whoever adds a row goes on in it.
  rows?.querySelector<HTMLElement>(':scope > li:last-child :is(input, select, textarea)')?.focus();
}
function move(from: number, by: number) {
  const next = list.filter((_, index) => index !== from);
  next.splice(from + by, 0, list[from]!);
  put(next);
}
const isLong = $derived(['group', 'union', 'record', 'list'].includes(shapeOf(item).sort));
const described = $derived({ ...item, ...(!item.title && !isLong && { title: '' }) });
const more = $derived<JsonSchema>({
  ...(Array.isArray(props.schema.examples) && { examples: props.schema.examples }),
  ...(names && { choices }),
});
</script>

<FieldFrame {...props} {tools} group>
  <ol class="field-rows" bind:this={rows}>
    {#each list as value, index (index)}
      <li class="field-row {isLong ? 'field-row-long' : ''}">
        <div class="min-w-0 grow">
          <Field
            id="{props.id}-{index}"
            label={isLong ? `${index + 1}` : `${props.label} ${index + 1}`}
            schema={{ ...described, ...more }}
            {value}
            path={[...props.path, index]}
            place={props.place}
            required
            plain={props.plain}
            onChange={(next) => put(list.map((old, at) => (at === index ? kept(next) : old)))}
          />
        </div>
        <div class="field-row-tools">
          {#if list.length > 1}
            <button
              type="button"
              class="field-tool"
              disabled={index === 0}
              aria-label="Move {props.label} {index + 1} up"
              onclick={() => move(index, -1)}><ArrowUp size={15} aria-hidden="true" /></button
            >
            <button
              type="button"
              class="field-tool"
              disabled={index === list.length - 1}
              aria-label="Move {props.label} {index + 1} down"
              onclick={() => move(index, 1)}><ArrowDown size={15} aria-hidden="true" /></button
            >
          {/if}
          <button
            type="button"
            class="field-tool"
            aria-label="Copy {props.label} {index + 1}"
            onclick={() => put([...list.slice(0, index + 1), structuredClone(value), ...list.slice(index + 1)])}
            ><Copy size={15} aria-hidden="true" /></button
          >
          <button
            type="button"
            class="field-tool"
            aria-label="Remove {props.label} {index + 1}"
            onclick={() => put(list.filter((_, at) => at !== index))}><Trash size={15} aria-hidden="true" /></button
          >
        </div>
      </li>
    {/each}
  </ol>
  <button type="button" class="button button-small" onclick={() => void add()}>
    <Plus size={15} aria-hidden="true" />
    <span
      >Add{#if list.length > 0 && one.length < 20}<span aria-hidden="true">&nbsp;another</span>{/if}</span
    >
    <span class="sr-only"> to {props.label}</span>
  </button>
</FieldFrame>

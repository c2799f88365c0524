<script lang="ts">
import ListTree from '@lucide/svelte/icons/list-tree';
import { isObject, type JsonSchema } from '@pindro/core/browser';
import type { Snippet } from 'svelte';
import DataTree from '../DataTree.svelte';
import FieldFrame from '../FieldFrame.svelte';
import { columnsAt, toolsAt } from '../known.svelte.js';
import Preview from '../Preview.svelte';
import type { FieldProps } from '../place.js';
import Reach from '../Reach.svelte';
import { shapeOf } from '../shape.js';
import { readScalar, TextEditing } from '../text-field.svelte.js';

/** A text with expressions: available values while it has the focus, a preview, and mistakes. */
let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
const { id, label } = $derived(props);
const shape = $derived(shapeOf(props.schema));
const isText = $derived(shape.sort === 'text' ? shape : null);
const text = $derived(
  props.value === undefined || props.value === null
    ? ''
    : typeof props.value === 'string'
      ? props.value
      : JSON.stringify(props.value),
);
const types = $derived([props.schema.type ?? (shape.sort === 'number' ? 'number' : [])].flat().map(String));
const scalars = $derived(
  shape.sort === 'scalar' && types.length === 0
    ? ((props.schema.anyOf ?? props.schema.oneOf ?? []) as JsonSchema[]).map((way) => String(way.type))
    : types,
);
const choices = $derived(
  isText?.names === 'column'
    ? columnsAt(props.place, props.path).map((one) => one.name)
    : isText?.names === 'tool'
      ? toolsAt(props.place, props.path).map((one) => one.name)
      : Array.isArray(props.schema.choices)
        ? props.schema.choices.map(String)
        : [],
);
const plain = $derived(props.plain || isText?.code === true);
const mayRefer = $derived(props.place.expressions && !plain);
const take = (next: string) =>
  props.onChange(
    next === '' && (!props.required || !props.place.expressions)
      ? undefined
      : isText
        ? next
        : readScalar(next, scalars),
  );
const offers = $derived(mayRefer || choices.length > 0);
/** One line of plain words, which the browser's own field does best. */
const isPlain = $derived(
  !mayRefer && !isText?.long && !isText?.code && choices.length === 0 && !text.includes('\n'),
);
const editing = new TextEditing(() => ({ text, place: props.place, plain, choices, take }));
const ran = $derived(props.place.lastInput !== undefined || Object.keys(props.place.lastOutputs).length > 0);
let tree = $state(false);
const mistakes = $derived(props.place.mistakesAt(props.path));
const faulty = $derived(mistakes.some((one) => !props.place.isCalm(one)));
const rows = $derived(
  Math.min(14, Math.max(isText?.long ? 3 : 1, text.split('\n').length, Math.ceil(text.length / 46))),
);
const example = $derived(Array.isArray(props.schema.examples) ? String(props.schema.examples[0] ?? '') : '');
const usual = $derived(
  props.schema.default === undefined || isObject(props.schema.default) ? '' : String(props.schema.default),
);

function pressed(event: KeyboardEvent) {
  if (editing.pressed(event)) {
    event.preventDefault();
    event.stopPropagation();
  }
}
</script>

{#snippet all()}
  {#if props.schema.unit}<span class="mr-1 text-sm text-soft">{props.schema.unit}</span>{/if}
  {#if mayRefer}
    <button
      type="button"
      class="field-tool"
      aria-label="Data for {label}"
      title="Available data"
      aria-expanded={tree}
      onclick={() => (tree = !tree)}><ListTree size={15} aria-hidden="true" /></button
    >
  {/if}
  {@render tools?.()}
{/snippet}

<FieldFrame {...props} tools={all}>
  {#if isPlain}
    <input
      {id}
      class="field"
      type={isText?.secret ? 'password' : isText?.date ? 'date' : 'text'}
      inputmode={shape.sort === 'number' ? 'decimal' : undefined}
      placeholder={usual || (example && `for example ${example}`)}
      aria-invalid={faulty}
      autocomplete="off"
      value={text}
      oninput={(event) => take(event.currentTarget.value)}
      aria-describedby="{id}-about"
    />
  {:else}
    <textarea
      {id}
      bind:this={editing.element}
      class="field resize-y {isText?.code ? 'font-mono text-[0.85rem]' : ''} {faulty ? 'field-faulty' : ''}"
      {rows}
      value={text}
      placeholder={usual || (example && `for example ${example}`)}
      oninput={(event) => editing.typed(event.currentTarget.value, event.currentTarget.selectionStart)}
      onkeydown={pressed}
      onfocus={editing.entered}
      onblur={editing.left}
      aria-invalid={faulty}
      aria-describedby="{id}-about"
      aria-controls={offers ? `${id}-reach` : undefined}
      aria-autocomplete={offers ? 'list' : undefined}
      aria-activedescendant={editing.isOpen && editing.at >= 0 ? `${id}-reach-${editing.at}` : undefined}
      spellcheck={isText?.long && !isText.code}
      autocomplete="off"></textarea>
    {#if offers}<Reach {id} {label} {editing} />{/if}
    {#if editing.preview && mistakes.length === 0}<Preview preview={editing.preview} {ran} />{/if}
  {/if}
</FieldFrame>
{#if tree}<DataTree data={props.place.data} onPick={(one) => editing.insert(one)} />{/if}

<script lang="ts">
import { attribute, isObject, type Json, type Span } from '@pindro/core/browser';
import Value from '../../values/Value.svelte';

/** Additional facts about a span as sentences, and the tools offered to its model. */
let { span }: { span: Span } = $props();
const list = (name: string) => [span.attributes[name] ?? []].flat() as Json[];
const objects = (name: string) => list(name).filter(isObject);
const notes = $derived([
  ...objects(attribute.unreachable).map(
    (one) => `Tool server ${one.server} could not be reached: ${one.message}. ${one.hint ?? ''}`,
  ),
  ...objects(attribute.heldTools).map((one) => `${one.tool} of ${one.server} is on hold: ${one.why}.`),
  ...objects(attribute.renamedTools).map(
    (one) => `The model sees ${one.tool} of ${one.from} as ${one.name}, because the name was taken.`,
  ),
  ...list(attribute.idlePatterns).map((one) => `No tool matches “${String(one)}” in the toolbox.`),
  ...list(attribute.trimmed).map((one) => `The model received ${String(one)}.`),
  ...list(attribute.unfit).map((one) => `The result does not match the output schema of the tool: ${String(one)}.`),
  ...(span.attributes[attribute.kept] === undefined
    ? []
    : [`The answer is from the cache, ${span.attributes[attribute.kept]} s old.`]),
  ...(span.attributes[attribute.cost] === undefined ? [] : [`Cost: ${span.attributes[attribute.cost]}.`]),
]);
const offered = $derived(span.attributes[attribute.offered]);
</script>

{#if notes.length > 0}
  <ul class="text-sm text-ochre lg:col-span-2">
    {#each notes as note, index (index)}<li>{note}</li>{/each}
  </ul>
{/if}
{#if offered !== undefined}
  <details class="text-sm lg:col-span-2">
    <summary class="cursor-pointer text-soft">Tools offered to the model</summary>
    <Value value={offered} name="tools offered to the model" />
  </details>
{/if}

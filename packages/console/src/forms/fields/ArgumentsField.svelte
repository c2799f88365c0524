<script lang="ts">
import { isObject, seenSchema, suppliedByServer, supplierWords } from '@pindro/core/browser';
import type { Snippet } from 'svelte';
import FieldFrame from '../FieldFrame.svelte';
import Fields from '../Fields.svelte';
import { givenSchemaAt, serverRulesAt, valuesAt } from '../known.svelte.js';
import type { FieldPlace, FieldProps } from '../place.js';
import { shapeOf } from '../shape.js';
import RecordField from './RecordField.svelte';

/** What a tool or a flow is given: its own arguments, named and described; by hand where they are not known. */
let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
const shape = $derived(shapeOf(props.schema));
const own = $derived(shape.sort === 'given' ? givenSchemaAt(props.place, props.path, shape.of) : null);
const { server, rules } = $derived(
  shape.sort === 'given' && shape.of === 'tool'
    ? serverRulesAt(props.place, props.path)
    : { server: '', rules: {} },
);
const namesOf = (schema: typeof own) => Object.keys(isObject(schema?.properties) ? schema.properties : {});
/** What rules of the tool server supply is not asked for here. */
const supplied = $derived(suppliedByServer(namesOf(own), rules));
const expected = $derived(
  own && supplied.length > 0 ? seenSchema(own, Object.fromEntries(supplied.map(([name]) => [name, 'omit']))) : own,
);
const value = $derived(isObject(props.value) ? props.value : {});
const place = $derived<FieldPlace>({
  ...props.place,
  values: (path) =>
    path.length === props.path.length + 1 ? valuesAt(props.place, props.path, String(path.at(-1)), value) : null,
});
const names = $derived(namesOf(expected));
/** What is given although it is not asked for. */
const strange = $derived(expected ? Object.keys(value).filter((name) => !names.includes(name)) : []);

function change(next: typeof value) {
  props.onChange(Object.keys(next).length > 0 ? next : undefined);
}
function without(name: string) {
  const { [name]: _, ...rest } = value;
  change(rest);
}
</script>

{#if expected}
  <FieldFrame {...props} {tools} group>
    {#if names.length === 0}<p class="text-sm text-soft">No inputs.</p>{/if}
    <Fields {...props} {place} schema={expected} {value} onChange={change} />
    {#each supplied as [name, supplier] (name)}
      <p class="text-sm text-soft wrap-anywhere">
        <span class="font-mono">{name}</span>: {supplierWords(supplier, server)}
      </p>
    {/each}
    {#each strange as name (name)}
      <p class="fault">
        {supplied.some(([one]) => one === name)
          ? `A rule of tool server ${server} already supplies “${name}”.`
          : `It has no argument “${name}”.`}
        <button type="button" class="link" onclick={() => without(name)}
          >Remove <span class="sr-only">{name}</span></button
        >
      </p>
    {/each}
  </FieldFrame>
{:else}
  <RecordField {...props} {tools} schema={{ ...props.schema, form: '', type: 'object' }} />
{/if}

<script lang="ts">
import { kept } from '../blank.js';
import Trash from '@lucide/svelte/icons/trash-2';
import { isObject, type Json, type JsonSchema } from '@pindro/core/browser';
import type { Snippet } from 'svelte';
import { columnSchema } from '../columns.js';
import Field from '../Field.svelte';
import FieldFrame from '../FieldFrame.svelte';
import { columnsAt, isLoadingColumns, toolsAt } from '../known.svelte.js';
import type { FieldProps } from '../place.js';
import { blankOf, shapeOf } from '../shape.js';

/** Names and what belongs to each: columns, headers, tools. Names that are known are offered. */
let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
const shape = $derived(shapeOf(props.schema));
const inner = $derived(shape.sort === 'record' ? shape.inner : {});
const names = $derived(shape.sort === 'record' ? shape.names : undefined);
const value = $derived(isObject(props.value) ? props.value : {});
const columns = $derived(names === 'column' ? columnsAt(props.place, props.path) : []);
const knownNames = $derived(
  names === 'tool' ? toolsAt(props.place, props.path).map((one) => one.name) : columns.map((one) => one.name),
);
const offered = $derived(knownNames.filter((name) => !(name in value)));
const loading = $derived(names === 'column' && isLoadingColumns(props.place, props.path));
let fresh = $state('');

function schemaFor(name: string): JsonSchema {
  const column = columns.find((one) => one.name === name);
  return column ? columnSchema(column.type) : inner;
}
function put(name: string, next: Json | undefined) {
  props.onChange({ ...value, [name]: kept(next) });
}
function remove(name: string) {
  const { [name]: _, ...rest } = value;
  props.onChange(Object.keys(rest).length > 0 || props.required ? rest : undefined);
}
function add(name: string) {
  if (name.trim() === '' || name.trim() in value) return;
  props.place.begun([...props.path, name.trim()]);
  put(name.trim(), blankOf(schemaFor(name.trim())));
  fresh = '';
}
</script>

<FieldFrame {...props} {tools} group>
  {#each Object.entries(value) as [name, one] (name)}
    <div class="field-row {shapeOf(schemaFor(name)).sort === 'group' ? 'field-row-long' : ''}">
      <div class="min-w-0 grow">
        <Field
          id="{props.id}-{name}"
          label={name}
          schema={schemaFor(name)}
          value={one}
          path={[...props.path, name]}
          place={props.place}
          required
          plain={props.plain}
          onChange={(next) => put(name, next)}
        />
      </div>
      <div class="field-row-tools">
        <button type="button" class="field-tool" aria-label="Remove {name}" onclick={() => remove(name)}>
          <Trash size={15} aria-hidden="true" />
        </button>
      </div>
    </div>
  {/each}
  <div class="flex flex-wrap gap-1.5">
    {#each offered.slice(0, 12) as name (name)}
      <button type="button" class="button button-small font-mono" aria-label="Add {name}" onclick={() => add(name)}>
        + {name}
      </button>
    {/each}
  </div>
  {#if !loading && (knownNames.length === 0 || names === 'tool')}
    <div class="mt-1.5 flex gap-2">
      <label class="sr-only" for="{props.id}-new">New name in {props.label}</label>
      <input
        id="{props.id}-new"
        class="field py-1"
        placeholder={names === 'tool' ? 'another tool' : 'name'}
        bind:value={fresh}
        onkeydown={(event) => {
          if (event.key !== 'Enter') return;
          event.preventDefault();
          add(fresh);
        }}
      />
      <button type="button" class="button button-small" onclick={() => add(fresh)} disabled={fresh.trim() === ''}>
        Add <span class="sr-only">the name to {props.label}</span>
      </button>
    </div>
  {/if}
</FieldFrame>

<script lang="ts">
import type { JsonSchema } from '@pindro/core/browser';
import {
  PROPERTY_NAME,
  propertiesOf,
  putProperty,
  removeProperty,
  renameProperty,
  requiredOf,
} from './properties.js';
import PropertyForm from './PropertyForm.svelte';

interface Props {
  id: string;
  /** What people call one of them: an input, a field. */
  what: string;
  schema: JsonSchema;
  /** Renames one where more than the schema has to follow. */
  onRename?: ((name: string, wanted: string) => void) | undefined;
  onChange: (schema: JsonSchema) => void;
  depth?: number;
}
/** The properties of an object's JSON Schema, as rows of a form. */
let { id, what, schema, onRename, onChange, depth = 0 }: Props = $props();
const properties = $derived(propertiesOf(schema));
const required = $derived(requiredOf(schema));
let fresh = $state('');

function add() {
  if (!PROPERTY_NAME.test(fresh) || properties.some(([name]) => name === fresh)) return;
  onChange(putProperty(schema, fresh, { type: 'string' }, true));
  fresh = '';
}
function rename(name: string, wanted: string) {
  if (wanted === name || !PROPERTY_NAME.test(wanted) || properties.some(([one]) => one === wanted)) return;
  if (onRename) onRename(name, wanted);
  else onChange(renameProperty(schema, name, wanted));
}
</script>

<ul class="space-y-2">
  {#each properties as [name, inner] (name)}
    <PropertyForm
      id="{id}-{name}"
      {...{ name, what, depth }}
      schema={inner}
      required={required.includes(name)}
      onRename={(wanted) => rename(name, wanted)}
      onRemove={() => onChange(removeProperty(schema, name))}
      onChange={(next, needed) => onChange(putProperty(schema, name, next, needed))}
    />
  {/each}
</ul>
<div class="mt-2 flex gap-2">
  <label class="sr-only" for="{id}-new">Name of a new {what}</label>
  <input
    id="{id}-new"
    class="field py-1"
    placeholder="new {what}"
    bind:value={fresh}
    onkeydown={(event) => {
      if (event.key !== 'Enter') return;
      event.preventDefault();
      add();
    }}
  />
  <button type="button" class="button button-small" onclick={add} disabled={!PROPERTY_NAME.test(fresh)}>
    Add <span class="sr-only">the {what}</span>
  </button>
</div>

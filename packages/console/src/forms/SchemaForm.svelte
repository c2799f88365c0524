<script lang="ts">
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import Fields from './Fields.svelte';
import { type FieldPlace, plainPlace } from './place.js';
import { resolved } from './schema.js';
import type { ValueSource } from './value-source.js';

/** A form made from the properties of a JSON Schema, filled with plain values. What is left empty is not sent. */
interface Props {
  schema: JsonSchema;
  value: JsonObject;
  /** Where the values of a field come from, by its name. */
  source?: (name: string) => ValueSource | null;
}
let { schema, value = $bindable(), source }: Props = $props();
const uid = $props.id();
const whole = $derived(resolved(schema, schema));
const place = $derived<FieldPlace>({
  ...plainPlace(value),
  ...(source && { values: (path) => (path.length === 1 ? source(String(path[0])) : null) }),
});
</script>

{#if Object.keys(whole.properties ?? {}).length === 0 && !whole.anyOf && !whole.oneOf}
  <p class="mb-3 text-soft">No inputs.</p>
{:else}
  <Fields id={uid} schema={whole} {value} path={[]} {place} shownAlone onChange={(next) => (value = next)} />
{/if}

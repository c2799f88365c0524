<script lang="ts">
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import Fields from './Fields.svelte';
import { plainPlace } from './place.js';
import { resolved } from './schema.js';

/** A form made from the properties of a JSON Schema, filled with plain values. What is left empty is not sent. */
let { schema, value = $bindable() }: { schema: JsonSchema; value: JsonObject } = $props();
const uid = $props.id();
const whole = $derived(resolved(schema, schema));
const place = $derived(plainPlace(value));
</script>

{#if Object.keys(whole.properties ?? {}).length === 0 && !whole.anyOf && !whole.oneOf}
  <p class="mb-3 text-soft">It takes no input.</p>
{:else}
  <Fields id={uid} schema={whole} {value} path={[]} {place} onChange={(next) => (value = next)} />
{/if}

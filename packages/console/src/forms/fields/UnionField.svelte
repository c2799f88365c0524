<script lang="ts">
import { isObject, type JsonSchema } from '@pindro/core/browser';
import type { Snippet } from 'svelte';
import Field from '../Field.svelte';
import FieldFrame from '../FieldFrame.svelte';
import Fields from '../Fields.svelte';
import type { FieldProps } from '../place.js';
import { blankOf, shapeOf, wayOf, wayWords } from '../shape.js';

/** A choice, then the fields of what was chosen. */
let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
const shape = $derived(shapeOf(props.schema));
const ways = $derived(shape.sort === 'union' ? shape.ways : []);
const at = $derived(wayOf(ways, props.value));
const chosen = $derived(ways[at]!);
const more = $derived<JsonSchema>({
  ...(props.schema.examples !== undefined && { examples: props.schema.examples }),
});
const isGroup = $derived(shapeOf(chosen).sort === 'group');
</script>

<FieldFrame {...props} {tools} group>
  <select
    class="field mb-3"
    aria-label="Type of {props.label}"
    value={String(at)}
    onchange={(event) => {
      props.place.begun(props.path);
      props.onChange(blankOf(ways[Number(event.currentTarget.value)]!));
    }}
  >
    {#each ways as way, index (index)}<option value={String(index)}>{wayWords(way)}</option>{/each}
  </select>
  {#key at}
    {#if isGroup}
      <Fields
        {...props}
        schema={chosen}
        value={isObject(props.value) ? props.value : {}}
        onChange={(next) => props.onChange(next)}
      />
    {:else}
      <Field {...props} id="{props.id}-way" schema={{ ...more, ...chosen }} required isWay />
    {/if}
  {/key}
</FieldFrame>

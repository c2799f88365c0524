<script lang="ts">
import type { Snippet } from 'svelte';
import type { FieldProps } from './place.js';
import { aboutOf } from './schema.js';

interface Props extends Pick<FieldProps, 'id' | 'schema' | 'path' | 'place'> {
  /** Whether to show mistakes of nested fields. */
  deep?: boolean;
  children?: Snippet;
}
/** Description and mistakes of a field; missing values of new items are shown without an error. */
let { id, schema, path, place, deep = true, children }: Props = $props();
const mistakes = $derived(place.mistakesAt(path, deep));
</script>

<div id="{id}-about" class="field-notes">
  {#if aboutOf(schema)}<p class="text-soft">{aboutOf(schema)}</p>{/if}
  {@render children?.()}
  {#each mistakes as mistake, index (index)}
    {#if place.isCalm(mistake)}
      <p class="text-ochre">Not configured yet.</p>
    {:else}
      <p class="text-rowan">{mistake.message}{mistake.hint ? `. ${mistake.hint}` : ''}</p>
    {/if}
  {/each}
</div>

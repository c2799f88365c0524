<script lang="ts">
import type { Snippet } from 'svelte';
import type { FieldProps } from './place.js';
import { aboutOf } from './schema.js';

interface Props extends Pick<FieldProps, 'id' | 'schema' | 'path' | 'place'> {
  /** Whether mistakes below it are told here too. */
  deep?: boolean;
  children?: Snippet;
}
/** What a field is for, and what is wrong with it; what is only missing is told calmly while somebody is at it. */
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

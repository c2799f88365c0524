<script lang="ts">
import type { Snippet } from 'svelte';
import FieldNotes from './FieldNotes.svelte';
import type { FieldProps } from './place.js';

interface Props extends Pick<FieldProps, 'id' | 'label' | 'schema' | 'path' | 'place' | 'required'> {
  tools?: Snippet | undefined;
  children: Snippet;
  /** Whether the frame holds several fields, and is a group of them. */
  group?: boolean;
}
/** What stands around a field: its label, how it is written, what it is, and what is wrong with it. */
let { id, label, schema, path, place, required, tools, children, group = false }: Props = $props();
// Where something holds anyhow, nobody has to be told that they need not choose.
const isOptional = $derived(!required && schema.default === undefined);
</script>

{#snippet name()}
  {label}{#if isOptional}{' '}<span class="field-optional">(optional)</span>{/if}
{/snippet}

{#if group}
  <fieldset class="field-group" aria-describedby="{id}-about">
    <legend class="field-legend">{@render name()}</legend>
    {#if tools}<div class="field-group-tools">{@render tools()}</div>{/if}
    <FieldNotes {id} {schema} {path} {place} deep={false} />
    {@render children()}
  </fieldset>
{:else}
  <div class="field-frame">
    <div class="field-head">
      <label class="font-medium" for={id}>{@render name()}</label>
      {#if tools}<span class="flex gap-0.5">{@render tools()}</span>{/if}
    </div>
    {@render children()}
    <FieldNotes {id} {schema} {path} {place} />
  </div>
{/if}

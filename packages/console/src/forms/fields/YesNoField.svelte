<script lang="ts">
import type { Snippet } from 'svelte';
import FieldNotes from '../FieldNotes.svelte';
import type { FieldProps } from '../place.js';

let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
</script>

<div class="field-frame">
  <div class="field-head">
    <label class="flex items-center gap-2 font-medium" for={props.id}>
      <input
        id={props.id}
        type="checkbox"
        class="tick"
        checked={(props.value ?? props.schema.default) === true}
        onchange={(event) => props.onChange(event.currentTarget.checked)}
        aria-describedby="{props.id}-about"
      />
      {props.label}
    </label>
    <span class="flex gap-0.5">{@render tools?.()}</span>
  </div>
  <FieldNotes id={props.id} schema={props.schema} path={props.path} place={props.place} />
</div>

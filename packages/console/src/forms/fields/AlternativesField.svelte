<script lang="ts">
import { isObject, type Json } from '@pindro/core/browser';
import type { Snippet } from 'svelte';
import Conditions from '../Conditions.svelte';
import FieldFrame from '../FieldFrame.svelte';
import type { FieldProps } from '../place.js';

/** Groups of conditions, any of which is enough. */
let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
const groups = $derived(Array.isArray(props.value) ? props.value : []);
const put = (next: Json[]) => props.onChange(next.length > 0 ? next : undefined);
</script>

<FieldFrame {...props} {tools} group>
  {#each groups as group, index (index)}
    {#if index > 0}<p class="my-2 font-medium text-soft">or</p>{/if}
    <div class="field-nested">
      <Conditions
        id="{props.id}-{index}"
        label="{props.label} {index + 1}"
        value={isObject(group) ? group : {}}
        path={[...props.path, index]}
        place={props.place}
        onChange={(next) => put(groups.map((old, at) => (at === index ? next : old)))}
      />
      <button type="button" class="link ml-3 text-sm" onclick={() => put(groups.filter((_, at) => at !== index))}>
        Remove this alternative <span class="sr-only">({index + 1})</span>
      </button>
    </div>
  {/each}
  <button type="button" class="button button-small" onclick={() => put([...groups, {}])}>Add an alternative</button>
</FieldFrame>

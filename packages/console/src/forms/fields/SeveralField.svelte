<script lang="ts">
import type { Json } from '@pindro/core/browser';
import type { Snippet } from 'svelte';
import FieldFrame from '../FieldFrame.svelte';
import type { FieldProps } from '../place.js';
import { shapeOf } from '../shape.js';

/** Several of what can be counted up, each ticked or not, in the order in which they are counted up. */
let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
const shape = $derived(shapeOf(props.schema));
const options = $derived(shape.sort === 'several' ? shape.options : []);
const chosen = $derived((Array.isArray(props.value) ? props.value : (props.schema.default ?? [])) as Json[]);

function toggle(option: Json, on: boolean) {
  // What somebody wrote that is not among them stays.
  const others = chosen.filter((one) => !options.includes(one));
  const next = options.filter((one) => (one === option ? on : chosen.includes(one)));
  const all = [...next, ...others];
  props.onChange(all.length > 0 || props.required ? all : undefined);
}
</script>

<FieldFrame {...props} {tools} group>
  <div class="flex flex-wrap gap-x-5 gap-y-1.5">
    {#each options as option (option)}
      <label class="flex items-center gap-1.5">
        <input
          type="checkbox"
          class="tick"
          checked={chosen.includes(option)}
          onchange={(event) => toggle(option, event.currentTarget.checked)}
        />
        {option}
      </label>
    {/each}
  </div>
</FieldFrame>

<script lang="ts">
import { isObject, type Json } from '@pindro/core/browser';
import type { Snippet } from 'svelte';
import FieldFrame from '../FieldFrame.svelte';
import type { FieldProps } from '../place.js';
import { shapeOf } from '../shape.js';

let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
const shape = $derived(shapeOf(props.schema));
const options = $derived(shape.sort === 'choice' ? shape.options : []);
const words = $derived(isObject(props.schema.words) ? props.schema.words : {});
const say = (option: Json) =>
  String(words[String(option)] ?? (option === null ? 'nothing' : option)).replaceAll('_', ' ');
const current = $derived(props.value ?? props.schema.default);
</script>

<FieldFrame {...props} {tools}>
  <select
    id={props.id}
    class="field"
    value={current === undefined ? '' : String(current)}
    onchange={(event) => props.onChange(options.find((one) => String(one) === event.currentTarget.value))}
    aria-describedby="{props.id}-about"
  >
    {#if props.schema.default === undefined}
      <option value="">{props.required ? 'choose …' : 'not set'}</option>
    {/if}
    {#each options as option (option)}<option value={String(option)}>{say(option)}</option>{/each}
  </select>
</FieldFrame>

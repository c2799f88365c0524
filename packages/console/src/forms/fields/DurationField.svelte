<script lang="ts">
import type { Snippet } from 'svelte';
import FieldFrame from '../FieldFrame.svelte';
import type { FieldProps } from '../place.js';

let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
const UNITS = [
  ['ms', 'milliseconds'],
  ['s', 'seconds'],
  ['m', 'minutes'],
  ['h', 'hours'],
  ['d', 'days'],
] as const;
const parts = $derived(/^(\d*\.?\d*)(ms|s|m|h|d)$/.exec(String(props.value ?? '')));
const usual = $derived(String(props.schema.default ?? ''));
const usualParts = $derived(/^(\d*\.?\d*)(ms|s|m|h|d)$/.exec(usual));
let unit = $derived(parts?.[2] ?? usualParts?.[2] ?? 's');
const amount = $derived(parts?.[1] ?? '');

function put(number: string, of: string) {
  unit = of;
  props.onChange(number === '' ? undefined : `${number}${of}`);
}
</script>

<FieldFrame {...props} {tools}>
  <div class="flex gap-2">
    <input
      id={props.id}
      class="field w-28"
      type="number"
      min="0"
      step="any"
      value={amount}
      placeholder={usualParts?.[1] ?? ''}
      oninput={(event) => put(event.currentTarget.value, unit)}
      aria-describedby="{props.id}-about"
    />
    <select
      class="field w-auto"
      aria-label="Unit of {props.label}"
      value={unit}
      onchange={(event) => put(amount, event.currentTarget.value)}
    >
      {#each UNITS as [short, word] (short)}<option value={short}>{word}</option>{/each}
    </select>
  </div>
</FieldFrame>

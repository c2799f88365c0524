<script lang="ts">
import { SUPPLIERS, type Supplier } from './supplied-by.js';

interface Props {
  /** Whose value it is. */
  label: string;
  value: Supplier;
  /** Who may supply it, in the order shown. */
  choices: readonly Supplier[];
  /** The tool server whose argument rule may supply it. */
  server?: string;
  /** Whether the words before the choice are shown; not where a column heading has them. */
  words?: boolean;
  onChange: (next: Supplier) => void;
}
/** Who supplies a value, as a sentence: the same choice in every form. */
let { label, value, choices, server = '', words = true, onChange }: Props = $props();
const shown = $derived(choices.includes(value) ? choices : [...choices, value]);
</script>

<span class="supplied-by">
  {#if words}<span aria-hidden="true">Supplied by</span>{/if}
  <select
    class={words ? 'field-sort' : 'field py-1'}
    aria-label="Supplied by {label}"
    {value}
    onchange={(event) => {
      onChange(event.currentTarget.value as Supplier);
      // What is not taken up, such as an input that is still to be named, leaves the choice as it was.
      event.currentTarget.value = value;
    }}
  >
    {#each shown as one (one)}<option value={one}>{SUPPLIERS[one].replace('SERVER', server)}</option>{/each}
  </select>
</span>

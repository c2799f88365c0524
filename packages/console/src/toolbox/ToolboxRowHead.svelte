<script lang="ts">
import Trash from '@lucide/svelte/icons/trash-2';
import * as r from './rows.js';

interface Props {
  row: r.Row;
  /** How many tools are taken, of how many. */
  chosen: number;
  known: number;
  onChange: (row: r.Row) => void;
  onRemove: () => void;
}
/** What a row of a toolbox is, whether it is on, and how it is removed. */
let { row, chosen, known, onChange, onRemove }: Props = $props();
const TITLES = { server: 'Tool server', endpoint: 'Endpoint', flow: 'Flow' };
const origin = $derived(r.originOf(row));
const isFlow = $derived(origin?.from === 'flow');
</script>

<header class="flex items-center justify-between gap-2 border-b border-line px-3 py-2">
  <p class="min-w-0">
    <span class="text-sm text-soft">{origin ? TITLES[origin.from] : ''}</span>
    <span class="font-semibold wrap-anywhere">{origin?.source}</span>
    {#if !isFlow}<span class="text-sm text-soft">{chosen} of {known} tools</span>{/if}
  </p>
  <label class="ml-auto flex items-center gap-1.5 text-sm">
    <input
      type="checkbox"
      class="tick"
      checked={r.isOn(row)}
      aria-label="Offer {origin?.source}"
      onchange={(event) => onChange(r.withOn(row, event.currentTarget.checked))}
    />
    {r.isOn(row) ? 'Enabled' : 'Disabled'}
  </label>
  <button type="button" class="field-tool" aria-label="Remove {origin?.source} from the toolbox" onclick={onRemove}>
    <Trash size={15} aria-hidden="true" />
  </button>
</header>

<script lang="ts">
import Wrench from '@lucide/svelte/icons/wrench';
import type { Snippet } from 'svelte';
import * as r from '../../toolbox/rows.js';
import FieldFrame from '../FieldFrame.svelte';
import type { FieldProps } from '../place.js';

/** What an agent may use, row by row; it is chosen and tamed in a window of its own. */
let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
const rows = $derived(r.rowsOf(props.value));
const editor = $derived(props.place.editor);
let open = $state(false);
// Somebody pressed the toolbox on the card.
$effect(() => {
  if (!editor?.wantsToolbox) return;
  editor.wantsToolbox = false;
  open = true;
});
function words(row: r.Row): string {
  const use = r.useOf(row);
  if (!r.isOn(row)) return 'disabled';
  if ('flow' in row) return 'a flow';
  return use.length === 0 ? 'all tools' : use.filter((one) => one !== '!*').join(', ') || 'no tool';
}
</script>

<FieldFrame {...props} {tools} group>
  <ul class="mb-2 space-y-1 text-sm">
    {#each rows as row, index (index)}
      <li class="flex items-start gap-2">
        <Wrench size={14} class="mt-1 shrink-0 text-soft" aria-hidden="true" />
        <span class="min-w-0 wrap-anywhere"
          ><span class="font-medium">{r.originOf(row)?.source ?? 'something else'}</span>
          <span class="text-soft">{words(row)}</span></span
        >
      </li>
    {/each}
  </ul>
  <button type="button" class="button button-small" onclick={() => (open = true)}>
    {rows.length > 0 ? 'Choose and configure tools' : 'Choose tools'}
  </button>
</FieldFrame>
{#if open}
  {#await import('../../toolbox/ToolboxWindow.svelte') then { default: ToolboxWindow }}
    <ToolboxWindow
      bind:open
      value={props.value}
      schema={props.schema}
      path={props.path}
      place={props.place}
      onChange={props.onChange}
    />
  {/await}
{/if}

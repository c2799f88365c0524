<script lang="ts">
import ListFilter from '@lucide/svelte/icons/list-filter';
import type { Json } from '@pindro/core/browser';
import Problem from '../parts/text/Problem.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';
import type { ValueSource } from './value-source.js';

interface Props {
  label: string;
  source: ValueSource;
  onSelect: (value: Json) => void;
}
/** Lists the values that a field can have, and takes the one that is chosen. */
let { label, source, onSelect }: Props = $props();
const uid = $props.id();
let open = $state(false);
let words = $state('');
let button = $state<HTMLButtonElement>();
let filter = $state<HTMLInputElement>();
const load = new Action(() => api.listValues({ body: source }));
const shown = $derived(
  (load.result?.items ?? []).filter(({ value, label }) =>
    `${String(value)} ${label}`.toLowerCase().includes(words.trim().toLowerCase()),
  ),
);
const from = $derived.by(() => {
  const { tool, flow, table } = load.result?.from ?? {};
  return tool ? `tool ${tool}` : flow ? `flow ${flow}` : `table ${table}`;
});

function toggle() {
  open = !open;
  words = '';
  if (open) void load.run();
}
function close() {
  open = false;
  button?.focus();
}
function choose(value: Json) {
  onSelect(value);
  close();
}
$effect(() => {
  if (open && load.result) filter?.focus();
});
</script>

<span class="relative inline-block">
  <button
    bind:this={button}
    type="button"
    class="field-tool"
    aria-expanded={open}
    aria-controls="{uid}-values"
    aria-label="Select a value for {label}"
    title="Select a value"
    onclick={toggle}
  >
    <ListFilter size={15} aria-hidden="true" />
  </button>
  {#if open}
    <div
      id="{uid}-values"
      role="dialog"
      tabindex="-1"
      aria-label="Values for {label}"
      class="panel absolute right-0 z-20 mt-1 w-80 max-w-[80vw] p-3 text-left shadow-lg"
      onkeydown={(event) => {
        if (event.key !== 'Escape') return;
        event.stopPropagation();
        close();
      }}
    >
      {#if load.busy}
        <p class="text-sm text-soft" role="status">Loading values …</p>
      {:else if load.problem}
        <Problem problem={load.problem} />
      {:else if load.result}
        <label class="sr-only" for="{uid}-filter">Filter the values</label>
        <input
          bind:this={filter}
          id="{uid}-filter"
          class="field mb-2 py-1 text-sm"
          placeholder="Filter"
          bind:value={words}
        />
        <ul class="max-h-60 overflow-y-auto">
          {#each shown as one (one.value)}
            <li>
              <button
                type="button"
                class="w-full rounded px-2 py-1 text-left text-sm hover:bg-spruce-wash focus-visible:bg-spruce-wash"
                onclick={() => choose(one.value as Json)}
                ><span class="font-mono">{String(one.value)}</span>{#if one.label}
                  <span class="block text-soft">{one.label}</span>{/if}</button
              >
            </li>
          {:else}<li class="px-2 py-1 text-sm text-soft">No values.</li>{/each}
        </ul>
        <p class="mt-2 border-t border-line pt-2 text-sm text-soft">
          From {from}{load.result.proposed ? ', detected by name' : ''}
        </p>
      {/if}
    </div>
  {/if}
</span>

<script lang="ts">
import ChevronRight from '@lucide/svelte/icons/chevron-right';
import type { Choice } from './choices.svelte.js';
import * as r from './rows.js';
import ToolboxRowHead from './ToolboxRowHead.svelte';

interface Props {
  row: r.Row;
  /** The tools that its source has now. */
  known: Choice[];
  /** Names that the model reads instead of a tool's own, where they differ. */
  called: (tool: string) => string | undefined;
  /** The selected tool. */
  tamed: string | null;
  onChange: (row: r.Row) => void;
  onRemove: () => void;
  onTame: (tool: string) => void;
}
/** One source in a toolbox: which of its tools are taken, and what becomes of those that come later. */
let { row, known, called, tamed, onChange, onRemove, onTame }: Props = $props();
const uid = $props.id();
const origin = $derived(r.originOf(row));
const names = $derived(known.map(({ tool }) => tool));
const chosen = $derived(r.chosenOf(row, names));
const idle = $derived(r.idleOf(row, names));
const isFlow = $derived(origin?.from === 'flow');
const patterns = $derived(r.useOf(row).filter((one) => one.includes('*') && one !== '!*'));
const TITLES = { server: 'Tool server', endpoint: 'Endpoint', flow: 'Flow' };
let pattern = $state('');

function addPattern() {
  const fresh = pattern.trim();
  if (fresh !== '') onChange(r.withUse(row, [...r.useOf(row).filter((one) => one !== '!*'), fresh]));
  pattern = '';
}
</script>

<section class="rounded-lg border border-line" aria-label="{origin ? TITLES[origin.from] : 'Row'} {origin?.source}">
  <ToolboxRowHead {row} chosen={chosen.length} known={known.length} {onChange} {onRemove} />
  {#if !r.isOn(row)}<p class="bg-sunk px-3 py-1.5 text-sm text-soft">
      Disabled: the agent is offered none of these tools. The settings remain.
    </p>{/if}
  <ul class="divide-y divide-line">
    {#each known as choice (choice.id)}
      {@const on = chosen.includes(choice.tool)}
      {@const other = on ? called(choice.tool) : undefined}
      <li class="flex items-start gap-2 px-3 py-1.5 {tamed === choice.tool ? 'bg-spruce-wash' : ''}">
        {#if !isFlow}
          <input
            type="checkbox"
            class="tick mt-1.5"
            aria-label={choice.tool}
            checked={on}
            onchange={(event) => onChange(r.withTool(row, choice.tool, event.currentTarget.checked, names))}
          />
        {/if}
        <button
          type="button"
          class="flex min-w-0 grow items-start gap-2 text-left {on ? '' : 'text-soft'}"
          disabled={!on}
          aria-label="Configure {choice.tool}"
          aria-pressed={tamed === choice.tool}
          onclick={() => onTame(choice.tool)}
        >
          <span class="min-w-0 grow">
            <span class="font-mono font-medium wrap-anywhere">{choice.tool}</span>
            {#if other}<span class="text-sm text-ochre">name for the model {other}, because the name was taken</span
              >{/if}
            {#each on ? r.wordsOn(r.settingsOf(row, choice.tool)) : [] as word (word)}
              <span class="tag">{word}</span>
            {/each}
            {#if choice.note}<span class="text-sm text-ochre">{choice.note}</span>{/if}
            <span class="block truncate text-sm text-soft">{choice.description || choice.title}</span>
          </span>
          {#if on}<ChevronRight size={16} class="mt-1.5 shrink-0 text-soft" aria-hidden="true" />{/if}
        </button>
      </li>
    {:else}
      <li class="px-3 py-2 text-sm text-soft">
        {isFlow ? 'This flow does not exist.' : 'Its tools are unknown: it has none, or has not responded yet.'}
      </li>
    {/each}
  </ul>
  {#if !isFlow}
    <footer class="space-y-2 border-t border-line px-3 py-2 text-sm">
      <p class="flex flex-wrap items-center gap-2">
        <label for="{uid}-later">New tools:</label>
        <select
          id="{uid}-later"
          class="field w-auto py-0.5 text-sm"
          value={r.takesLater(row) ? 'allow' : 'hold'}
          onchange={(event) => onChange(r.withLater(row, event.currentTarget.value === 'allow', names))}
        >
          <option value="hold">are excluded until somebody adds them</option>
          <option value="allow">are added automatically</option>
        </select>
        <label class="flex items-center gap-1.5">
          <input
            type="checkbox"
            class="tick"
            checked={row.instructions !== false}
            onchange={(event) => {
              const { instructions: _, ...rest } = row;
              onChange(event.currentTarget.checked ? rest : { ...rest, instructions: false });
            }}
          />Send its instructions to the model
        </label>
      </p>
      <details open={patterns.length > 0}>
        <summary class="cursor-pointer text-soft">By pattern</summary>
        <form
          class="mt-1 flex flex-wrap items-center gap-1.5"
          onsubmit={(event) => {
            event.preventDefault();
            addPattern();
          }}
        >
          {#each patterns as one (one)}
            <span class="chip"
              >{one}
              <button
                type="button"
                aria-label="Remove pattern {one}"
                onclick={() =>
                  onChange(
                    r.withUse(
                      row,
                      r.useOf(row).filter((other) => other !== one),
                    ),
                  )}>×</button
              ></span
            >
          {/each}
          <label class="sr-only" for="{uid}-pattern">Pattern with *; a leading ! excludes</label>
          <input
            id="{uid}-pattern"
            class="field w-40 py-0.5 font-mono text-sm"
            placeholder="list_*"
            bind:value={pattern}
          />
          <button class="button button-small" disabled={pattern.trim() === ''}>Add</button>
        </form>
      </details>
      {#each idle as one (one)}
        <p class="text-ochre">{origin?.source} has no tool that matches “{one}”.</p>
      {/each}
    </footer>
  {/if}
</section>

<script lang="ts">
import { humanDuration, type SpanStates, spanStateIn } from '@pindro/core/browser';
import { tick, untrack } from 'svelte';
import { plural } from '../../state/format.js';
import { BARS, labelOf, lengthOf, type Span } from './span-words.js';
import type { TraceView } from './trace-view.svelte.js';

interface Props {
  spans: Span[];
  view: TraceView;
  /** States of spans at the selected event; null: the end. */
  moment: SpanStates | null;
  onSelect: (span: string | null) => void;
}
/** A run's spans under one another, each a bar where its time lies; those in sight are drawn. */
let { spans, view, moment, onSelect }: Props = $props();
const HEIGHT = 34;
let scroller = $state<HTMLElement>();
let top = $state(0);
let room = $state(600);
const first = $derived(Math.max(0, Math.floor(top / HEIGHT) - 8));
const shown = $derived(view.rows.slice(first, first + Math.ceil(room / HEIGHT) + 16));
const chosen = $derived(view.chosenSpan);
const stand = (span: Span) => (moment === null ? 'over' : spanStateIn(moment, span.spanId));
const uid = $props.id();

async function see(index: number, focus: boolean) {
  if (!scroller) return;
  const above = index * HEIGHT;
  if (above < scroller.scrollTop) scroller.scrollTop = above;
  else if (above + HEIGHT > scroller.scrollTop + room) scroller.scrollTop = above + HEIGHT - room;
  await tick();
  if (focus) scroller.querySelector<HTMLElement>(`[data-row="${index}"]`)?.focus({ preventScroll: true });
}
$effect(() => {
  const { chosen: id } = view;
  // Rows that a run under way adds must not move what somebody reads.
  const at = untrack(() => view.rows.findIndex(({ span }) => span.spanId === id));
  if (at >= 0) void untrack(() => see(at, false));
});
function pressed(event: KeyboardEvent) {
  const by = { ArrowDown: 1, ArrowUp: -1, PageDown: 12, PageUp: -12, Home: -1e9, End: 1e9 }[event.key];
  if (by !== undefined) void see(view.step(by), true);
  else if ((event.key === 'ArrowLeft' || event.key === 'ArrowRight') && view.chosen) {
    if ((event.key === 'ArrowLeft') === view.isFolded(view.chosen)) return;
    view.fold(view.chosen);
  } else return;
  event.preventDefault();
}
</script>

<div class="trace-search">
  <label class="sr-only" for="{uid}-search">Search spans</label>
  <input id="{uid}-search" class="field w-56" type="search" placeholder="Search spans" bind:value={view.search} />
  <p class="text-sm text-soft" role="status">
    {#if view.found}
      {plural(view.found.size, 'span')} of {spans.length.toLocaleString()} matching
    {:else if view.path.size < spans.length}
      {plural(spans.length, 'span')}; the {view.path.size.toLocaleString()} on the critical path are underlined
    {:else}
      {plural(spans.length, 'span')}; all spans are on the critical path
    {/if}
  </p>
</div>
<!-- svelte-ignore a11y_no_static_element_interactions (its rows have the focus) -->
<div
  bind:this={scroller}
  bind:clientHeight={room}
  class="trace-rows"
  onscroll={(event) => (top = event.currentTarget.scrollTop)}
  onkeydown={pressed}
>
  <ol class="relative" style="height: {view.rows.length * HEIGHT}px" aria-label="Spans of the run">
    {#each shown as { span, depth, below }, index (span.spanId)}
      {@const on = view.path.has(span.spanId)}
      <li class="trace-row" class:trace-later={stand(span) === 'pending'} style="top: {(first + index) * HEIGHT}px">
        {#if below > 0 && !view.found}
          <button
            type="button"
            class="trace-fold"
            style="left: {depth * 1.1}rem"
            tabindex="-1"
            aria-expanded={!view.isFolded(span.spanId)}
            aria-label="Contents of {span.work} {labelOf(span)}"
            onclick={() => view.fold(span.spanId)}>{view.isFolded(span.spanId) ? '▸' : '▾'}</button
          >
        {/if}
        <button
          type="button"
          class="span-row"
          class:trace-chosen={view.chosen === span.spanId}
          data-row={first + index}
          aria-pressed={view.chosen === span.spanId}
          tabindex={view.chosen === span.spanId || (chosen === undefined && index === 0) ? 0 : -1}
          onclick={() => onSelect(view.chosen === span.spanId ? null : span.spanId)}
        >
          <span class="truncate" style="padding-left: {depth * 1.1 + 1.1}rem">
            <span class="text-sm text-soft">{span.work}</span>
            <span class={span.status === 'error' ? 'font-semibold text-rowan' : 'font-medium'}>{labelOf(span)}</span
            >{#if span.status === 'error'}<span class="text-rowan">, failed</span
              >{/if}{#if below > 0 && view.isFolded(span.spanId) && !view.found}<span class="text-sm text-soft"
                >, {below.toLocaleString()} nested</span
              >{/if}
          </span>
          <span class="relative h-3 rounded bg-sunk max-sm:hidden" aria-hidden="true">
            <span
              class="absolute inset-y-0 rounded {span.status === 'error' ? 'bg-rowan' : BARS[span.work]}"
              class:trace-critical={on && view.path.size < spans.length}
              style="left: {((span.start - view.begin) / view.took) * 100}%; width: max(3px, {(lengthOf(span) /
                view.took) *
                100}%)"
            ></span>
            {#if moment !== null}<span
                class="trace-moment"
                style="left: {((moment.at - view.begin) / view.took) * 100}%"
              ></span>{/if}
          </span>
          <span class="text-right text-sm text-soft tabular-nums"
            >{#if stand(span) === 'running'}running{:else}{humanDuration(lengthOf(span))}{/if}</span
          >
        </button>
      </li>
    {/each}
  </ol>
</div>

<script lang="ts">
import { humanDuration, momentsOf, type SpanStates, spanStatesAt } from '@pindro/core/browser';
import { momentWords, type Span } from './span-words.js';

/** Steps through the events of a run. */
let { spans, moment = $bindable() }: { spans: Span[]; moment: SpanStates | null } = $props();
let at = $state(0);
let isOpen = $state(false);
const moments = $derived(isOpen ? momentsOf(spans) : []);
const now = $derived(moments[at]);
const uid = $props.id();
// Without its controls, the end is what is shown.
$effect(() => () => (moment = null));

function go(to: number) {
  at = Math.max(0, Math.min(moments.length - 1, to));
  moment = moments.length > 0 ? spanStatesAt(moments, at) : null;
}
function toggle() {
  isOpen = !isOpen;
  if (isOpen) go(0);
  else moment = null;
}
</script>

<div class="mb-3">
  <button type="button" class="button button-quiet" aria-pressed={isOpen} onclick={toggle}>Event log</button>
  {#if isOpen && now}
    <div class="mt-2 flex flex-wrap items-center gap-3">
      <button type="button" class="button button-quiet" disabled={at === 0} onclick={() => go(at - 1)}
        >Previous event</button
      >
      <label class="sr-only" for="{uid}-at">Event</label>
      <input
        id="{uid}-at"
        type="range"
        class="min-w-40 grow accent-spruce"
        min="0"
        max={moments.length - 1}
        value={at}
        aria-valuetext="{humanDuration(now.at - moments[0]!.at)}: {momentWords(now)}"
        oninput={(event) => go(Number(event.currentTarget.value))}
      />
      <button
        type="button"
        class="button button-quiet"
        disabled={at === moments.length - 1}
        onclick={() => go(at + 1)}>Next event</button
      >
    </div>
    <p class="mt-1" aria-live="polite">
      <span class="text-soft tabular-nums"
        >{at + 1} of {moments.length}, after {humanDuration(now.at - moments[0]!.at)}:</span
      >
      {momentWords(now)}
    </p>
  {/if}
</div>

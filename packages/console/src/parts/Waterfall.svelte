<script lang="ts">
import SpanNotes from './SpanNotes.svelte';
import type { RunDetail } from '@pindro/contract/light';
import { attribute, humanDuration } from '@pindro/core/browser';
import Value from '../values/Value.svelte';

type Span = RunDetail['spans'][number];
/** A run's spans under one another, each a bar where its time lies. */
interface Props {
  spans: Span[];
  open?: string | null;
  run: string;
  /** Loads a value of the run whole. */
  whole: (of: 'input' | 'result' | 'step', path?: string) => () => Promise<unknown>;
}
let { spans, open = null, run, whole }: Props = $props();

interface Row {
  span: Span;
  depth: number;
}
const rows = $derived.by(() => {
  const ids = new Set(spans.map((span) => span.spanId));
  const under = (parent: string | null, depth: number): Row[] =>
    spans
      .filter((span) =>
        parent === null ? span.parentId === null || !ids.has(span.parentId) : span.parentId === parent,
      )
      .sort((a, b) => a.start - b.start)
      .flatMap((span) => [{ span, depth }, ...under(span.spanId, depth + 1)]);
  return under(null, 0);
});
const begin = $derived(Math.min(...spans.map((span) => span.start)));
const longest = $derived(Math.max(1, Math.max(...spans.map((span) => span.end ?? span.start)) - begin));
// svelte-ignore state_referenced_locally
let chosen = $state<string | null>(open);

const BARS: Record<Span['work'], string> = {
  run: 'bg-soft',
  step: 'bg-spruce',
  item: 'bg-spruce',
  agent: 'bg-glacier',
  model: 'bg-ochre',
  tool: 'bg-ink',
  memory: 'bg-soft',
};
const WORK: Record<Span['work'], string> = {
  run: 'run',
  step: 'step',
  item: 'item',
  agent: 'agent',
  memory: 'memory',
  model: 'model',
  tool: 'tool',
};
const label = (span: Span) => {
  const tool = span.attributes[attribute.tool];
  const round = span.attributes[attribute.round];
  if (span.work === 'tool')
    return `${tool}${span.attributes[attribute.server] ? ` of ${span.attributes[attribute.server]}` : ''}`;
  if (span.work === 'model')
    return [round === undefined ? '' : `round ${round}`, `on ${span.attributes[attribute.model]}`].join(' ').trim();
  return span.work === 'agent' ? `on ${span.attributes[attribute.model]}` : span.name;
};
/** The record keeps whole what a step of this run left; of other spans what was cut is gone. */
const wholeOf = (span: Span) =>
  span.run !== run
    ? undefined
    : span.work === 'step'
      ? whole('step', String(span.attributes[attribute.path] ?? span.name))
      : span.work === 'run'
        ? whole('result')
        : undefined;
const length = (span: Span) => (span.end ?? span.start) - span.start;
</script>

<ol class="overflow-hidden rounded-lg border border-line bg-card" aria-label="Spans of the run">
  {#each rows as { span, depth } (span.spanId)}
    <li class="border-b border-line last:border-0">
      <button
        type="button"
        class="span-row"
        aria-expanded={chosen === span.spanId}
        onclick={() => (chosen = chosen === span.spanId ? null : span.spanId)}
      >
        <span class="truncate" style="padding-left: {depth * 1.1}rem">
          <span class="text-sm text-soft">{WORK[span.work]}</span>
          <span class={span.status === 'error' ? 'font-semibold text-rowan' : 'font-medium'}>{label(span)}</span
          >{#if span.status === 'error'}<span class="text-rowan">, failed</span>{/if}
        </span>
        <span class="relative h-3 rounded bg-sunk max-sm:hidden" aria-hidden="true">
          <span
            class="absolute inset-y-0 rounded {span.status === 'error' ? 'bg-rowan' : BARS[span.work]}"
            style="left: {((span.start - begin) / longest) * 100}%; width: max(3px, {(length(span) / longest) *
              100}%)"
          ></span>
        </span>
        <span class="text-right text-sm text-soft tabular-nums">{humanDuration(length(span))}</span>
      </button>
      {#if chosen === span.spanId}
        <div class="grid gap-4 border-t border-line bg-paper px-4 py-3 lg:grid-cols-2">
          {#if span.error}
            <div class="lg:col-span-2">
              <p class="font-semibold text-rowan">{span.error.message}</p>
              <p>{span.error.hint}</p>
            </div>
          {/if}
          {#if span.input !== undefined}<div class="min-w-0">
              <h3 class="mb-1 text-sm font-semibold text-soft">What went in</h3>
              <Value value={span.input} name="what went in" />
            </div>{/if}
          {#if span.output !== undefined}<div class="min-w-0">
              <h3 class="mb-1 text-sm font-semibold text-soft">What came out</h3>
              <Value value={span.output} name="what came out" whole={wholeOf(span)} />
            </div>{/if}
          <SpanNotes {span} />
          <details class="text-sm lg:col-span-2">
            <summary class="cursor-pointer text-soft">Attributes</summary><Value
              value={span.attributes}
              json={false}
            />
          </details>
        </div>
      {/if}
    </li>
  {/each}
</ol>

<script lang="ts">
import {
  attribute,
  humanDuration,
  isObject,
  type Json,
  type JsonObject,
  madeBySpan,
  type Span as CoreSpan,
} from '@pindro/core/browser';
import MadeThings from '../../parts/resource/MadeThings.svelte';
import Value from '../../values/Value.svelte';
import Attempts from './Attempts.svelte';
import ProgressLines from './ProgressLines.svelte';
import SpanNotes from './SpanNotes.svelte';
import { labelOf, lengthOf, type Span } from './span-words.js';
import ExchangeList from './ExchangeList.svelte';

interface Props {
  span: Span;
  run: string;
  whole: (of: 'input' | 'result' | 'step', path?: string) => () => Promise<unknown>;
  /** All attempts at the step, where there were several. */
  attempts: readonly Span[];
  /** Time of the span itself on the critical path, in milliseconds; null if it is not on it. */
  alone: number | null;
  onClose: () => void;
}
/** One span: input and output first, then everything else. */
let { span, run, whole, attempts, alone, onClose }: Props = $props();

/** The record keeps whole what a step of this run left; of other spans what was cut is gone. */
const wholeOf = $derived(
  span.run !== run
    ? undefined
    : span.work === 'step'
      ? whole('step', String(span.attributes[attribute.path] ?? span.name))
      : span.work === 'run'
        ? whole('result')
        : undefined,
);
const made = $derived(madeBySpan(span as CoreSpan));
/** The data of a tool's result is shown; its content repeats it as text. */
const data = $derived(
  isObject(span.output as Json) && Array.isArray((span.output as JsonObject).content)
    ? (span.output as JsonObject).structuredContent
    : undefined,
);
</script>

<section class="min-w-0" aria-label="{span.work} {labelOf(span)}">
  <div class="mb-3 flex items-start justify-between gap-3">
    <div class="min-w-0">
      <h2 class="wrap-anywhere">{span.work} {labelOf(span)}</h2>
      <p class="text-sm text-soft">
        {humanDuration(lengthOf(span))}{#if alone !== null}, on the critical path; {humanDuration(
            Math.round(alone),
          )} itself{/if}{#if span.run !== run}, in
          <a class="link" href="/runs/{span.run}">its own run</a>{/if}
      </p>
    </div>
    <button type="button" class="button button-quiet" onclick={onClose}>Close</button>
  </div>
  {#if span.error}
    <div class="mb-3">
      <p class="font-semibold text-rowan wrap-anywhere">{span.error.message}</p>
      <p>{span.error.hint}</p>
    </div>
  {/if}
  {#if attempts.length > 1}<Attempts {attempts} {span} />{/if}
  {#if span.input !== undefined}
    <h3 class="mb-1 text-sm font-semibold text-soft">Input</h3>
    <div class="mb-3 min-w-0"><Value value={span.input} name="input" /></div>
  {/if}
  {#if span.output !== undefined}
    <h3 class="mb-1 text-sm font-semibold text-soft">Output</h3>
    <div class="mb-3 min-w-0">
      {#if data !== undefined}
        <Value value={data} name="output" />
        <details class="mt-1 text-sm">
          <summary class="cursor-pointer text-soft">Raw</summary><Value value={span.output} name="raw" />
        </details>
      {:else}<Value value={span.output} name="output" whole={wholeOf} />{/if}
    </div>
  {/if}
  {#if made.length > 0}<p class="mb-3">Created: <MadeThings things={made} /></p>{/if}
  <ProgressLines {span} />
  <ExchangeList {span} />
  <SpanNotes {span} />
  <details class="text-sm">
    <summary class="cursor-pointer text-soft">Attributes</summary><Value value={span.attributes} json={false} />
  </details>
</section>

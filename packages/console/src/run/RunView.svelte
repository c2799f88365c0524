<script lang="ts">
import type { RunDetail } from '@pindro/contract/light';
import { untrack } from 'svelte';
import { type Span as CoreSpan, type SpanStates, transcriptsOf } from '@pindro/core/browser';
import FlowCanvas from '../canvas/FlowCanvas.svelte';
import ReceiptCard from '../parts/finding/ReceiptCard.svelte';
import ViewTabs from '../parts/list/ViewTabs.svelte';
import { api } from '../state/api.js';
import { plural } from '../state/format.js';
import { router } from '../state/router.svelte.js';
import Conversation from './Conversation.svelte';
import EventLog from './trace/EventLog.svelte';
import Findings from './Findings.svelte';
import RunHead from './RunHead.svelte';
import RunSummary from './RunSummary.svelte';
import SpanDetail from './trace/SpanDetail.svelte';
import { statesOf } from './trace/states-at.js';
import Trace from './trace/Trace.svelte';
import { TraceView } from './trace/trace-view.svelte.js';

/** A run on one screen: what was found, its conversation, trace or flow, and the selected span beside them. */
let { run }: { run: RunDetail } = $props();

const whole = (of: 'input' | 'result' | 'step', path?: string) => async () =>
  (await api.runValue({ id: run.id, query: { of, ...(path && { path }) } })).value;

// svelte-ignore state_referenced_locally (a run that is still under way gets spans)
const view = new TraceView(() => run.spans, run.findings[0]?.span ?? null);
// What a run under way comes to is shown as soon as it is found, unless somebody reads another span.
// svelte-ignore state_referenced_locally
let hasShown = run.findings.length > 0;
$effect(() => {
  const span = run.findings[0]?.span;
  if (!span || hasShown) return;
  hasShown = true;
  untrack(() => view.chosen === null && view.show(span));
});
/** The selected event of the run; null: the end. */
let moment = $state.raw<SpanStates | null>(null);
let detail = $state<HTMLElement>();

const talks = $derived(transcriptsOf(run.spans as CoreSpan[]).filter(({ messages }) => messages.length > 0));
const views = $derived([
  ...(talks.length > 0 ? ['Conversation'] : []),
  'Trace',
  ...(run.cards.length > 0 ? ['Flow'] : []),
]);
/** What stands first is what opens without a word in the address. */
const tabs = $derived(views.map((label, index) => ({ label, value: index === 0 ? '' : label.toLowerCase() })));
const open = $derived(tabs.find(({ value }) => value === (router.query.get('view') ?? ''))?.label ?? views[0]);
const chosen = $derived(view.chosenSpan);
const isWhole = $derived(chosen === undefined || (chosen.work === 'run' && chosen.run === run.id));
const chosenStep = $derived(chosen?.work === 'step' && chosen.run === run.id ? chosen.name : null);

function select(span: string | null) {
  view.show(span);
  // Where everything stands under one another, what was asked for comes into view.
  if (!matchMedia('(min-width: 64rem)').matches) detail?.scrollIntoView({ block: 'start' });
}
const stepSpan = (step: string) =>
  run.spans.findLast((span) => span.work === 'step' && span.run === run.id && span.name === step)?.spanId ?? null;
</script>

<RunHead {run} />
<div class="run-view">
  <div class="run-left">
    {#if run.findings.length > 0 || run.receipt}
      <div class="run-findings">
        {#if run.receipt}<ReceiptCard receipt={run.receipt} />{/if}
        <Findings findings={run.findings} onSelect={select} />
      </div>
    {/if}
    <div class="run-tabs">
      <ViewTabs views={tabs} label="Views of the run" slim />
      {#if run.spans.length > 0 && open !== 'Conversation'}<EventLog spans={run.spans} bind:moment />{/if}
    </div>
    {#if open === 'Conversation'}
      <div class="run-talk">
        {#each talks as talk, index (talk.agent)}
          <section aria-label="Conversation{talks.length > 1 ? ` ${index + 1}` : ''}">
            {#if talks.length > 1}<h2 class="mb-2">
                Agent {index + 1} of {talks.length}, on {talk.model}
              </h2>{/if}
            <Conversation {talk} chosen={view.chosen} onSelect={select} />
          </section>
        {/each}
      </div>
    {:else if open === 'Flow'}
      <section class="run-flow" aria-label="Steps">
        <h2 class="sr-only">Steps</h2>
        <FlowCanvas
          cards={run.cards}
          links={run.links}
          states={statesOf(run, moment)}
          lit={chosenStep}
          fill
          onPick={(step) => select(stepSpan(step))}
        />
      </section>
    {:else if run.spans.length > 0}
      <Trace spans={run.spans} {view} {moment} onSelect={select} />
    {:else}<p class="px-4 text-soft">No spans recorded yet.</p>{/if}
  </div>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex (it scrolls, and may hold nothing else that takes the focus) -->
  <div class="run-detail" role="region" aria-label="Details" tabindex="0" bind:this={detail}>
    {#if chosen && !isWhole}
      <SpanDetail
        span={chosen}
        run={run.id}
        {whole}
        attempts={view.attemptsOf(chosen)}
        alone={view.path.get(chosen.spanId) ?? null}
        onClose={() => view.show(null)}
      />
    {:else}<RunSummary {run} {whole} />{/if}
    <p class="mt-4 text-sm text-soft">
      {plural(run.spans.length, 'span')}. Run <span class="font-mono">{run.id}</span>
    </p>
  </div>
</div>

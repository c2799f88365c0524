<script lang="ts">
import When from '../parts/When.svelte';
import type { RunDetail } from '@pindro/contract/light';
import { type Span, type SpanStates, transcriptsOf } from '@pindro/core/browser';
import AsFlow from '../asked/CreateFlow.svelte';
import FlowCanvas from '../canvas/FlowCanvas.svelte';
import FindingCard from '../parts/FindingCard.svelte';
import Loaded from '../parts/Loaded.svelte';
import Made from '../parts/Made.svelte';
import PageHead from '../parts/PageHead.svelte';
import ReceiptCard from '../parts/ReceiptCard.svelte';
import State from '../parts/State.svelte';
import Again from '../run/Retry.svelte';
import Conversation from '../run/Conversation.svelte';
import { statesOf } from '../run/states-at.js';
import Trace from '../run/Trace.svelte';
import Value from '../values/Value.svelte';
import { api } from '../state/api.js';
import { took } from '../state/format.js';
import { Resource } from '../state/resource.svelte.js';

let { name: id }: { name: string } = $props();

const run = new Resource(() => api.getRun({ id, query: { brief: 'true' } }), ['run', 'problem']);

const whole = (of: 'input' | 'result' | 'step', path?: string) => async () =>
  (await api.runValue({ id, query: { of, ...(path && { path }) } })).value;

/** The selected event of the run; null: the end. */
let moment = $state.raw<SpanStates | null>(null);
const talks = $derived(
  transcriptsOf((run.value?.spans ?? []) as Span[]).filter(({ messages }) => messages.length > 0),
);
</script>

<Loaded from={run} page="Run {id}">
  {#snippet children(now)}
    <PageHead title="Run of {now.flow}" back={{ to: '/runs', label: 'Runs' }}>
      {#snippet actions()}
        <Again run={now} />
        {#if now.receipt && now.receipt.done.length + now.receipt.looked > 0}<AsFlow
            run={now.id}
            flow={now.flow}
          />{/if}
      {/snippet}
    </PageHead>
    <p class="mb-5 flex flex-wrap items-center gap-x-3 gap-y-1">
      <State state={now.state} />
      <span>{took(now.startedAt, now.endedAt)}</span>
      <span class="text-soft"
        >started <When at={now.startedAt} /> for {now.caller}, {now.revision === null
          ? now.stage
          : `revision ${now.revision}`}</span
      >
      {#if now.cards.length > 0}<a class="link" href="/flows/{now.flow}">flow</a>{/if}
      {#if now.endedAt}<a class="link" href="/runs/{now.id}/compare">compare with last success</a>{/if}
      {#if now.parentRun}<a class="link" href="/runs/{now.parentRun}">the run that started it</a>{/if}
      <span class="font-mono text-sm text-soft">{now.id}</span>
    </p>
    {#if now.waits.length > 0}
      <ul class="mb-6 space-y-2">
        {#each now.waits as wait (wait.path)}<li class="rounded-lg border border-ochre/40 bg-ochre-wash p-4">
            <p class="font-semibold text-ochre">Step {wait.path.split('/')[0]} is waiting: {wait.what}</p>
            {#if wait.for === 'person'}<a class="link" href="/approvals">Decide</a>{:else if wait.run}<a
                class="link"
                href="/runs/{wait.run}">View the run it waits for</a
              >{/if}
          </li>{/each}
      </ul>
    {/if}
    {#if now.receipt}<div class="mb-6"><ReceiptCard receipt={now.receipt} /></div>{/if}
    {#if now.findings.length > 0}
      <div class="mb-6 space-y-3">
        {#each now.findings as finding (finding.span + finding.code)}<FindingCard {finding} />{/each}
      </div>
    {/if}
    <div class="mb-8 grid gap-4 lg:grid-cols-2">
      <section class="panel min-w-0">
        <h2 class="mb-2">Input</h2>
        <Value value={now.input} name="input" whole={whole('input')} />
      </section>
      <section class="panel min-w-0">
        <h2 class="mb-2">Output</h2>
        {#if now.state === 'done'}<Value value={now.result} name="result" whole={whole('result')} />{:else}<p
            class="text-soft"
          >
            {now.state === 'running'
              ? 'Running.'
              : now.state === 'waiting'
                ? 'None yet: the run is waiting.'
                : 'None: the run did not finish.'}
          </p>{/if}<Made spans={now.spans} />
      </section>
    </div>
    {#if now.cards.length > 0}
      <section class="mb-8" aria-label="Steps">
        <h2 class="mb-2">Steps</h2>
        <FlowCanvas cards={now.cards} links={now.links} states={statesOf(now, moment)} />
      </section>
    {/if}
    {#each talks as talk, index (talk.agent)}
      <section class="mb-8" aria-label="Conversation{talks.length > 1 ? ` ${index + 1}` : ''}">
        <h2 class="mb-2">
          Messages to the model{talks.length > 1 ? ` (${index + 1} of ${talks.length}, on ${talk.model})` : ''}
        </h2>
        <div class="panel"><Conversation {talk} /></div>
      </section>
    {/each}
    <section>
      <h2 class="mb-2">Timeline</h2>
      {#if now.spans.length > 0}<Trace
          {whole}
          run={now.id}
          spans={now.spans}
          open={now.findings[0]?.span ?? null}
          bind:moment
        />{:else}<p class="text-soft">No spans recorded yet.</p>{/if}
    </section>
  {/snippet}
</Loaded>

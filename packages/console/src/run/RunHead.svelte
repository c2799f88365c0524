<script lang="ts">
import type { RunDetail } from '@pindro/contract/light';
import AsFlow from '../asked/CreateFlow.svelte';
import DocsLink from '../parts/shell/DocsLink.svelte';
import State from '../parts/text/State.svelte';
import When from '../parts/text/When.svelte';
import { took } from '../state/format.js';
import Retry from './retry/Retry.svelte';

/** Which run it is, how it ended, and what can be done with it. */
let { run }: { run: RunDetail } = $props();
</script>

<svelte:head><title>Run of {run.flow} · Pindro</title></svelte:head>
<div class="run-head">
  <div class="min-w-0">
    <a href="/runs" class="text-sm text-soft hover:text-ink">← Runs</a>
    <h1 class="wrap-anywhere">Run of {run.flow}</h1>
    <p class="mt-1 flex flex-wrap items-center gap-x-3 gap-y-0.5">
      <State state={run.state} />
      <span>{took(run.startedAt, run.endedAt)}</span>
      <span class="text-soft"
        >started <When at={run.startedAt} /> for {run.caller}, {run.revision === null
          ? run.stage
          : `revision ${run.revision}`}</span
      >
      {#if run.cards.length > 0}<a class="link" href="/flows/{run.flow}">Flow</a>{/if}
      {#if run.endedAt}<a class="link" href="/runs/{run.id}/compare">Compare with the last success</a>{/if}
      {#if run.parentRun}<a class="link" href="/runs/{run.parentRun}">Parent run</a>{/if}
    </p>
  </div>
  <div class="flex flex-wrap items-center gap-2">
    <Retry {run} />
    {#if run.receipt && run.receipt.done.length + run.receipt.looked > 0}<AsFlow
        run={run.id}
        flow={run.flow}
      />{/if}
    <DocsLink />
  </div>
</div>
{#if run.waits.length > 0}
  <ul class="space-y-1 px-4 pb-2 lg:px-6">
    {#each run.waits as wait (wait.path)}<li
        class="rounded-lg border border-ochre/40 bg-ochre-wash px-4 py-2 text-ochre"
      >
        <span class="font-semibold">Step {wait.path.split('/')[0]} is waiting: {wait.what}</span>
        {#if wait.for === 'person'}<a class="link" href="/approvals">Decide</a>{:else if wait.run}<a
            class="link"
            href="/runs/{wait.run}">View the run it waits for</a
          >{/if}
      </li>{/each}
  </ul>
{/if}

<script lang="ts">
import MessageSquare from '@lucide/svelte/icons/message-square';
import Play from '@lucide/svelte/icons/play';
import Radio from '@lucide/svelte/icons/radio';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import FlowCanvas from '../canvas/FlowCanvas.svelte';
import SchemaForm from '../forms/SchemaForm.svelte';
import Code from '../parts/Code.svelte';
import ExposeWindow from '../parts/ExposeWindow.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import Problem from '../parts/Problem.svelte';
import State from '../parts/State.svelte';
import Value from '../parts/Value.svelte';
import { api } from '../state/api.js';
import { moment } from '../state/format.js';
import { Action, Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

let { name }: { name: string } = $props();

const flow = new Resource(() => api.getFlow({ name }), ['flow', 'endpoint']);
let input = $state.raw<JsonObject>({});
let stage = $state<'draft' | 'live'>('draft');
let exposing = $state(false);
const run = new Action(() => api.runFlow({ name, body: { input, stage } }));
const uid = $props.id();
</script>

<Loaded from={flow}>
  {#snippet children(now)}
    <PageHead title={now.title} about={now.description} back={{ to: '/flows', label: 'Flows' }}>
      {#snippet actions()}
        {#if now.agent}<a class="button" href="/flows/{name}/chat"><MessageSquare size={16} aria-hidden="true" /> Talk to it</a>{/if}
        <button type="button" class="button button-main" onclick={() => (exposing = true)}><Radio size={16} aria-hidden="true" /> Expose</button>
      {/snippet}
    </PageHead>
    <p class="mb-4 flex flex-wrap items-center gap-2">
      {#if now.revision === null}<State state="changed" label="not published" />{:else}<State state="live" label="revision {now.revision} is live" />{#if now.changed}<State state="changed" label="the draft differs" />{/if}{/if}
      {#each now.endpoints as endpoint (endpoint)}<a class="link" href="/endpoints/{endpoint}">on endpoint {endpoint}</a>{/each}
    </p>
    <div class="grid gap-6 xl:grid-cols-[1fr_20rem]">
      <section aria-labelledby="{uid}-steps" class="min-w-0">
        <h2 id="{uid}-steps" class="sr-only">Steps</h2>
        <FlowCanvas cards={now.cards} links={now.links} lit={router.query.get('step')} />
        <details class="mt-4"><summary class="cursor-pointer font-medium">The document, as it was written</summary><div class="mt-2"><Code text={now.text} label="flow document" /></div></details>
        {#if now.revisions.length > 0}
          <details class="mt-2"><summary class="cursor-pointer font-medium">Revisions</summary>
            <ul class="mt-2 space-y-1">{#each now.revisions as one (one.revision)}<li>{one.revision}, published {moment(one.publishedAt)} {#if one.live}<State state="live" />{/if}</li>{/each}</ul>
          </details>
        {/if}
      </section>
      <section class="panel self-start" aria-labelledby="{uid}-run">
        <h2 id="{uid}-run" class="mb-3">Run it</h2>
        <form onsubmit={(event) => { event.preventDefault(); void run.run(); }}>
          <SchemaForm schema={now.input as JsonSchema} bind:value={input} />
          <fieldset class="mb-4 flex gap-4">
            <legend class="sr-only">Which version</legend>
            <label class="flex items-center gap-1.5"><input type="radio" class="accent-[var(--spruce)]" bind:group={stage} value="draft" /> draft</label>
            <label class="flex items-center gap-1.5"><input type="radio" class="accent-[var(--spruce)]" bind:group={stage} value="live" disabled={now.revision === null} /> live</label>
          </fieldset>
          <button class="button button-main" disabled={run.busy}><Play size={16} aria-hidden="true" /> {run.busy ? 'Running …' : 'Run'}</button>
        </form>
        <div aria-live="polite" class="mt-4 space-y-2">
          {#if run.problem}<Problem problem={run.problem} />{/if}
          {#if run.result}
            {@const outcome = run.result}
            {#if outcome.error}<Problem problem={{ type: '', status: 0, code: outcome.error.code, title: outcome.error.message, hint: outcome.error.hint }} />{:else}<State state={outcome.state} /><Value value={outcome.result} name="result" />{/if}
            <p><a class="link" href="/runs/{outcome.run}">See what each step did</a></p>
          {/if}
        </div>
      </section>
    </div>
    {#if exposing}<ExposeWindow flow={now} bind:open={exposing} />{/if}
  {/snippet}
</Loaded>

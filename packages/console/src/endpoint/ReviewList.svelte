<script lang="ts">
import Check from '@lucide/svelte/icons/check';
import type { EndpointDetail, Suggestion } from '@pindro/contract/light';
import Code from '../parts/text/Code.svelte';
import Empty from '../parts/list/Empty.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import Problem from '../parts/text/Problem.svelte';
import { api } from '../state/api.js';
import { plural } from '../state/format.js';
import { Action, Resource } from '../state/resource.svelte.js';
import Suggestions from './Suggestions.svelte';

/** What the model reads, and what is wrong with it. */
let { endpoint }: { endpoint: EndpointDetail } = $props();

const uid = $props.id();
const review = new Resource(() => api.reviewEndpoint({ name: endpoint.name }), ['endpoint', 'flow', 'server']);
const models = new Resource(() => api.listModels(), ['model']);
const apply = new Action(async (suggestions?: string[]) => {
  const applied = await api.applyReview({ name: endpoint.name, body: suggestions ? { suggestions } : {} });
  await review.refresh();
  return applied;
});
let message = $state('');
let model = $state('');
const choose = new Action(() =>
  api.selectTool({ name: endpoint.name, body: { message, model: model || (models.value?.items[0]?.name ?? '') } }),
);
const mendable = (suggestions: Suggestion[]) => suggestions.filter(({ fix }) => fix !== null).length;
</script>

<Loaded from={review}>
  {#snippet children({ suggestions, tokens, sent })}
    <div class="mb-4 flex flex-wrap items-center gap-3">
      <h2>{plural(sent.length, 'tool')}, about {tokens} tokens</h2>
      {#if mendable(suggestions) > 0}<button
          type="button"
          class="button button-main"
          disabled={apply.busy}
          onclick={() => void apply.run()}
          ><Check size={16} aria-hidden="true" /> Apply {plural(mendable(suggestions), 'suggestion')}</button
        >{/if}
    </div>
    {#if apply.problem}<div class="mb-4"><Problem problem={apply.problem} /></div>{/if}
    {#if apply.result}<p class="mb-4 text-spruce" role="status">
        {plural(apply.result.applied.length, 'suggestion')} applied. Clients that have these tools are notified.
      </p>{/if}
    {#if suggestions.length === 0}
      <Empty title="No findings">Names, descriptions and arguments contain what a model needs.</Empty>
    {:else}
      <div class="mb-8"><Suggestions {suggestions} busy={apply.busy} apply={(id) => void apply.run([id])} /></div>
    {/if}
    <section class="mb-8">
      <h2 class="mb-1">Tool selection</h2>
      <p class="mb-3 text-soft">The model receives your prompt and the tools. Nothing is called.</p>
      {#if (models.value?.items.length ?? 0) === 0}<p class="text-soft">
          No model connections yet. <a class="link" href="/models">Add one</a>.
        </p>
      {:else}
        <form
          class="flex flex-wrap items-end gap-2"
          onsubmit={(event) => {
            event.preventDefault();
            void choose.run();
          }}
        >
          <div class="min-w-64 grow">
            <label class="label" for="{uid}-message">Prompt</label><input
              id="{uid}-message"
              class="field"
              bind:value={message}
              required
              placeholder="Is there room for three in the larch hut on Saturday?"
            />
          </div>
          <div>
            <label class="label" for="{uid}-model">Model</label><select
              id="{uid}-model"
              class="field"
              bind:value={model}
              >{#each models.value?.items ?? [] as one (one.name)}<option value={one.name}>{one.name}</option
                >{/each}</select
            >
          </div>
          <button class="button button-main" disabled={choose.busy}>{choose.busy ? 'Asking …' : 'Ask'}</button>
        </form>
        {#if choose.problem}<div class="mt-3"><Problem problem={choose.problem} /></div>{/if}
        {#if choose.result}
          <div class="panel mt-3" role="status">
            {#each choose.result.calls as call, index (index)}
              <p>
                The model would call <span class="font-mono font-semibold">{call.tool}</span>{Object.keys(
                  call.arguments,
                ).length === 0
                  ? ' without arguments.'
                  : ' with'}
              </p>
              <dl class="mt-1 grid gap-x-4 text-sm sm:grid-cols-[max-content_1fr]">
                {#each Object.entries(call.arguments) as [name, value] (name)}<dt class="font-mono">{name}</dt>
                  <dd class="text-soft">{typeof value === 'string' ? value : JSON.stringify(value)}</dd>{/each}
              </dl>
            {/each}
            {#if choose.result.calls.length === 0}<p>
                The model would call no tool, and answer: {choose.result.text}
              </p>{/if}
            <p class="mt-2 text-sm"><a class="link" href="/runs/{choose.result.run}">View the model request</a></p>
          </div>
        {/if}
      {/if}
    </section>
    <section>
      <h2 class="mb-2">Tool list as sent</h2>
      <Code text={JSON.stringify(sent, null, 2)} label="tool list" />
    </section>
  {/snippet}
</Loaded>

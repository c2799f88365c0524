<script lang="ts">
import Empty from '../parts/Empty.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import Problem from '../parts/Problem.svelte';
import Rows from '../parts/Rows.svelte';
import SidePanel from '../parts/SidePanel.svelte';
import State from '../parts/State.svelte';
import { api } from '../state/api.js';
import { moment } from '../state/format.js';
import { Action, Resource } from '../state/resource.svelte.js';

const models = new Resource(() => api.listModels(), ['model']);
const credentials = new Resource(() => api.listCredentials(), ['credential']);
const empty = { name: '', base: '', model: '', credential: '' };
let given = $state({ ...empty });
const add = new Action(() =>
  api.addModel({
    body: {
      name: given.name,
      base: given.base,
      model: given.model,
      ...(given.credential && { credential: given.credential }),
    },
  }),
);
const test = new Action(async (name: string) => ({ name, ...(await api.testModel({ name })) }));
const uid = $props.id();
</script>

<PageHead
  title="Model connections"
  about="Where a language model answers. Agents name a connection, so that the model behind it can change."
/>
<div class="grid gap-6 xl:grid-cols-[1fr_22rem]">
  <div class="min-w-0 space-y-3">
    <div aria-live="polite">
      {#if test.problem}<Problem problem={test.problem} />{/if}
      {#if test.result}<p>{test.result.name} answered in {test.result.milliseconds} ms: “{test.result.answer}”</p>{/if}
    </div>
    <Loaded from={models}>
      {#snippet children({ items })}
        {#if items.length === 0}
          <Empty title="No model connection yet"
            >Give an address and the name of a model on this page. It is asked one short question before it is kept.</Empty
          >
        {:else}
          <Rows label="Model connections" headings={['Connection', 'Model', 'Wire format', 'Last tested', '']} {items}>
            {#snippet row(one)}
              <td
                ><span class="font-semibold">{one.name}</span><br /><span class="font-mono text-sm text-soft"
                  >{one.base}</span
                ></td
              >
              <td>{one.model}</td>
              <td class="text-soft">{one.dialect}</td>
              <td
                >{#if one.trouble}<State state="unreachable" label="in trouble" />
                  <p class="mt-1 max-w-xs text-sm text-rowan">{one.trouble}</p>{:else}<span class="text-soft"
                    >{moment(one.testedAt)}</span
                  >{/if}</td
              >
              <td
                ><button
                  type="button"
                  class="button px-2 py-1 text-sm"
                  disabled={test.busy}
                  aria-label="Test {one.name}"
                  onclick={() => void test.run(one.name)}>Test</button
                ></td
              >
            {/snippet}
          </Rows>
        {/if}
      {/snippet}
    </Loaded>
  </div>
  <SidePanel title="Add a connection" onsubmit={async () => (await add.run()) && (given = { ...empty })}>
    <label class="label" for="{uid}-name">Name</label>
    <input id="{uid}-name" class="field mb-4" bind:value={given.name} required />
    <label class="label" for="{uid}-base">Base address</label>
    <input
      id="{uid}-base"
      class="field mb-4"
      type="url"
      bind:value={given.base}
      required
      placeholder="http://127.0.0.1:9100/v1"
    />
    <label class="label" for="{uid}-model">Name of the model there</label>
    <input id="{uid}-model" class="field mb-4" bind:value={given.model} required />
    <label class="label" for="{uid}-credential"
      >Credential <span class="font-normal text-soft">(if it needs one)</span></label
    >
    <select id="{uid}-credential" class="field mb-4" bind:value={given.credential}
      ><option value="">none</option>{#each credentials.value?.items ?? [] as one (one.name)}<option>{one.name}</option
        >{/each}</select
    >
    {#if add.problem}<div class="mb-4"><Problem problem={add.problem} /></div>{/if}
    <button class="button button-main" disabled={add.busy}>{add.busy ? 'Asking it …' : 'Test and add'}</button>
  </SidePanel>
</div>

<script lang="ts">
import { WORKSHOP } from '@pindro/contract/light';
import Connect from '../endpoint/Connect.svelte';
import Keys from '../endpoint/Keys.svelte';
import Use from '../endpoint/Use.svelte';
import Code from '../parts/text/Code.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import PageHead from '../parts/text/PageHead.svelte';
import Problem from '../parts/text/Problem.svelte';
import ViewTabs from '../parts/list/ViewTabs.svelte';
import { api } from '../state/api.js';
import { Action, Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';
import OpenFlows from '../workshop/OpenFlows.svelte';
import Proposals from '../workshop/Proposals.svelte';

const ABOUT =
  'A built-in endpoint: an assistant reads the contracts of the flows that you open to it, calls them, ' +
  'examines their runs, and proposes changes that you publish.';
const workshop = new Resource(() => api.getWorkshop(), ['workshop', 'flow']);
const endpoint = new Resource(() => api.getEndpoint({ name: WORKSHOP }), ['key', 'client']);
const turn = new Action((on: boolean) => api.updateWorkshop({ body: { on } }));
const view = $derived(router.query.get('view') ?? '');
const waiting = $derived(workshop.value?.proposals.filter(({ state }) => state === 'open').length ?? 0);
const views = $derived([
  { value: '', label: 'Flows' },
  { value: 'proposals', label: waiting > 0 ? `Proposals (${waiting})` : 'Proposals' },
  { value: 'brief', label: 'Instructions' },
  { value: 'connect', label: 'Connect' },
  { value: 'keys', label: 'Keys' },
  { value: 'use', label: 'Usage' },
]);
</script>

<PageHead title="Workshop for coding assistants" about={ABOUT} back={{ to: '/endpoints', label: 'Endpoints' }} />
<Loaded from={workshop}>
  {#snippet children(now)}
    <section class="panel mb-5 flex flex-wrap items-center justify-between gap-3">
      <p>
        {#if now.on}<strong class="text-spruce">The workshop is enabled.</strong> Keys for it grant access.
        {:else}<strong>The workshop is disabled.</strong> Nobody can connect to it.{/if}
      </p>
      <button
        type="button"
        class="button {now.on ? '' : 'button-main'}"
        disabled={turn.busy}
        onclick={() => void turn.run(!now.on)}>{now.on ? 'Disable' : 'Enable'}</button
      >
      {#if turn.problem}<div class="w-full"><Problem problem={turn.problem} /></div>{/if}
    </section>
    <div class="mb-4"><Code text={now.url} label="address" /></div>
    <ViewTabs {views} label="Views of the workshop" />
    {#if view === 'proposals'}<Proposals workshop={now} />
    {:else if view === 'brief'}
      <h2 class="mb-2">Instructions for the assistant</h2>
      <p class="mb-3 text-soft">
        Paste them into the instructions of the assistant, or into the file that your project keeps for them.
      </p>
      <Code text={now.brief} label="instructions" />
    {:else if view === 'connect' || view === 'keys' || view === 'use'}
      <Loaded from={endpoint}>
        {#snippet children(detail)}
          {#if view === 'connect'}<Connect endpoint={detail} />{:else if view === 'keys'}<Keys
              endpoint={detail}
            />{:else}<Use endpoint={detail} />{/if}
        {/snippet}
      </Loaded>
    {:else}<OpenFlows workshop={now} />{/if}
  {/snippet}
</Loaded>

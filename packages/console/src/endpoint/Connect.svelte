<script lang="ts">
import When from '../parts/text/When.svelte';
import { type EndpointDetail, type EndpointEvent, KEY_GAP } from '@pindro/contract/light';
import Code from '../parts/text/Code.svelte';
import Problem from '../parts/text/Problem.svelte';
import Settings from '../parts/resource/Settings.svelte';
import SelfTest from './SelfTest.svelte';
import State from '../parts/text/State.svelte';
import { api } from '../state/api.js';
import { Action, Resource } from '../state/resource.svelte.js';

/** Everything a client needs, a line that follows the first one, and what to check when none comes. */
let { endpoint }: { endpoint: EndpointDetail } = $props();

const uid = $props.id();
let caller = $state('');
const connect = new Resource(() => api.connectEndpoint({ name: endpoint.name }), ['endpoint']);
const lately = new Resource(() => api.endpointSessions({ name: endpoint.name }), ['client', 'key', 'endpoint']);
const issue = new Action((who: string) =>
  api.issueKey({ body: { name: who, caller: who, endpoints: [endpoint.name] } }),
);
const key = $derived(issue.result?.key);
const settings = $derived.by(() => {
  const all = connect.value?.settings ?? [];
  return key ? all.map((one) => ({ ...one, text: one.text.replaceAll(KEY_GAP, key) })) : all;
});
const failed = (line: EndpointEvent) => line.kind === 'called' && / failed in /.test(line.text);
const DOTS: Record<string, string> = {
  connected: 'running',
  called: 'done',
  listed: 'ready',
  left: 'off',
  refused: 'refused',
};
</script>

{#if endpoint.access === 'open'}
  <p class="mb-4 rounded-md border border-rowan bg-rowan-wash p-3 text-rowan" role="note">
    <strong>This endpoint is open.</strong> Anybody who reaches its address may call its tools without a key. It answers
    only on this machine, unless the service was started with --open-to-all.
  </p>
{/if}
<section class="mb-8">
  <h2 class="mb-2">Settings for a client</h2>
  {#if endpoint.access !== 'open'}
    <form
      class="mb-4 flex flex-wrap items-end gap-2"
      onsubmit={(event) => {
        event.preventDefault();
        void issue.run(caller);
      }}
    >
      <div>
        <label class="label" for="{uid}-caller">Issue a key for</label><input
          id="{uid}-caller"
          class="field"
          bind:value={caller}
          required
          placeholder="name of the client or person"
        />
      </div>
      <button class="button button-main" disabled={issue.busy}>Issue key</button>
      <a class="link py-1.5" href="/endpoints/{endpoint.name}?view=keys">Restrict the key</a>
    </form>
  {/if}
  {#if issue.problem}<div class="mb-4"><Problem problem={issue.problem} /></div>{/if}
  {#if issue.result}<p class="mb-1 font-medium">
      Key for {issue.result.summary.caller}. Copy it now; it is not shown again. The settings below contain it.
    </p>
    <div class="mb-4"><Code text={issue.result.key} label="key" secret={key} /></div>{/if}
  {#if settings.length > 0}<Settings {settings} secret={key} />{/if}
</section>
<section class="mb-8">
  <h2 class="mb-2">Connected clients</h2>
  <div aria-live="polite">
    {#if endpoint.clients.length === 0}<p class="busy">
        {lately.value?.happened.some(({ kind }) => kind === 'connected')
          ? 'No client is connected. The next one'
          : 'Waiting for the first client. It'} appears here immediately.
      </p>{/if}
    {#each endpoint.clients as client (client.since + client.name)}<p>
        <State state="running" label="connected" />
        {client.name}
        {client.version} with key “{client.key}”, since <When at={client.since} />
      </p>{/each}
  </div>
  {#if (lately.value?.happened.length ?? 0) > 0}
    <ol class="mt-3 space-y-1.5 border-l-2 border-line pl-4" aria-label="Recent activity">
      {#each lately.value!.happened.slice(0, 12) as line, index (index + line.at)}
        <li class="grid grid-cols-[5.5rem_6rem_1fr] items-baseline gap-x-2">
          <span class="text-sm text-soft tabular-nums"><When at={line.at} /></span><span
            ><State
              state={failed(line) ? 'failed' : (DOTS[line.kind] ?? 'off')}
              label={failed(line) ? 'failed' : line.kind}
            /></span
          ><span class="min-w-0 wrap-anywhere"
            >{line.text}{#if line.run}{' '}<a class="link text-sm whitespace-nowrap" href="/runs/{line.run}"
                >View run</a
              >{/if}</span
          >
        </li>
      {/each}
    </ol>
  {/if}
</section>
<SelfTest {endpoint} />

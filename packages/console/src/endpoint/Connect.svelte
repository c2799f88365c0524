<script lang="ts">
import When from '../parts/When.svelte';
import CircleCheck from '@lucide/svelte/icons/circle-check';
import CircleMinus from '@lucide/svelte/icons/circle-minus';
import CircleX from '@lucide/svelte/icons/circle-x';
import { type EndpointDetail, type Happening, KEY_GAP } from '@pindro/contract/light';
import Code from '../parts/Code.svelte';
import Problem from '../parts/Problem.svelte';
import Settings from '../parts/Settings.svelte';
import State from '../parts/State.svelte';
import { api } from '../state/api.js';
import { Action, Resource } from '../state/resource.svelte.js';

/** Everything a client needs, a line that follows the first one, and what to check when none comes. */
let { endpoint }: { endpoint: EndpointDetail } = $props();

const uid = $props.id();
let caller = $state('');
let presented = $state('');
const connect = new Resource(() => api.connectEndpoint({ name: endpoint.name }), ['endpoint']);
const lately = new Resource(() => api.endpointSessions({ name: endpoint.name }), ['client', 'key', 'endpoint']);
const issue = new Action((who: string) =>
  api.issueKey({ body: { name: who, caller: who, endpoints: [endpoint.name] } }),
);
const test = new Action(() =>
  api.testEndpoint({ name: endpoint.name, body: presented.trim() ? { key: presented.trim() } : {} }),
);
const key = $derived(issue.result?.key);
const settings = $derived.by(() => {
  const all = connect.value?.settings ?? [];
  return key ? all.map((one) => ({ ...one, text: one.text.replaceAll(KEY_GAP, key) })) : all;
});
const LOOKS = {
  well: { icon: CircleCheck, color: 'text-spruce' },
  failed: { icon: CircleX, color: 'text-rowan' },
  'not tried': { icon: CircleMinus, color: 'text-soft' },
};
const failed = (line: Happening) => line.kind === 'called' && / failed in /.test(line.text);
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
    <strong>This endpoint is open.</strong> Whoever reaches its address may call its tools, without a key. It answers
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
        <label class="label" for="{uid}-caller">Make a key for</label><input
          id="{uid}-caller"
          class="field"
          bind:value={caller}
          required
          placeholder="who connects"
        />
      </div>
      <button class="button button-main" disabled={issue.busy}>Make a key</button>
      <a class="link py-1.5" href="/endpoints/{endpoint.name}?view=keys">Limit what a key may do</a>
    </form>
  {/if}
  {#if issue.problem}<div class="mb-4"><Problem problem={issue.problem} /></div>{/if}
  {#if issue.result}<p class="mb-1 font-medium">
      Key for {issue.result.summary.caller}. It can be copied now and never again; it stands in the settings below
      already.
    </p>
    <div class="mb-4"><Code text={issue.result.key} label="key" secret={key} /></div>{/if}
  {#if settings.length > 0}<Settings {settings} secret={key} />{/if}
</section>
<section class="mb-8">
  <h2 class="mb-2">Who connects</h2>
  <div aria-live="polite">
    {#if endpoint.clients.length === 0}<p class="busy">
        {lately.value?.happened.some(({ kind }) => kind === 'connected')
          ? 'No client is connected now. The next one'
          : 'Waiting for the first client. It'} shows up here at once.
      </p>{/if}
    {#each endpoint.clients as client (client.since + client.name)}<p>
        <State state="running" label="connected" />
        {client.name}
        {client.version} with key “{client.key}”, since <When at={client.since} />
      </p>{/each}
  </div>
  {#if (lately.value?.happened.length ?? 0) > 0}
    <ol class="mt-3 space-y-1.5 border-l-2 border-line pl-4" aria-label="What happened lately">
      {#each lately.value!.happened.slice(0, 12) as line, index (index + line.at)}
        <li class="grid grid-cols-[5.5rem_6rem_1fr] items-baseline gap-x-2">
          <span class="text-sm text-soft tabular-nums"><When at={line.at} /></span><span
            ><State
              state={failed(line) ? 'failed' : (DOTS[line.kind] ?? 'off')}
              label={failed(line) ? 'failed' : line.kind}
            /></span
          ><span class="min-w-0 wrap-anywhere"
            >{line.text}{#if line.run}{' '}<a class="link text-sm whitespace-nowrap" href="/runs/{line.run}"
                >See the run</a
              >{/if}</span
          >
        </li>
      {/each}
    </ol>
  {/if}
</section>
<section class="panel">
  <h2>Nothing arrives?</h2>
  <p class="mt-1 mb-3 text-soft">
    Pindro can connect to itself as a stranger would, and say which part fails. Paste the key as it stands in the
    client's settings to try just that one.
  </p>
  <form
    class="flex flex-wrap items-end gap-2"
    onsubmit={(event) => {
      event.preventDefault();
      void test.run();
    }}
  >
    {#if endpoint.access !== 'open'}<div class="min-w-64 grow">
        <label class="label" for="{uid}-key">Key in the settings (if you like)</label><input
          id="{uid}-key"
          class="field font-mono"
          type="password"
          autocomplete="off"
          bind:value={presented}
          placeholder="one is lent for the test"
        />
      </div>{/if}
    <button class="button button-main" disabled={test.busy}
      >{test.busy ? 'Connecting …' : 'Test the connection'}</button
    >
  </form>
  {#if test.problem}<div class="mt-3"><Problem problem={test.problem} /></div>{/if}
  {#if test.result}
    <ol class="mt-4 space-y-2" aria-label="Self-test">
      {#each test.result.steps as step (step.what)}
        {@const Look = LOOKS[step.state]}
        <li class="flex items-start gap-3">
          <Look.icon size={19} class="mt-0.5 shrink-0 {Look.color}" aria-hidden="true" /><span
            ><span class="font-medium">{step.what}</span><span class="sr-only">: {step.state}</span
            >{#if step.found}<span class="block text-soft wrap-anywhere">{step.found}</span>{/if}{#if step.fix}<span
                class="block font-medium text-rowan">{step.fix}</span
              >{/if}</span
          >
        </li>
      {/each}
    </ol>
    <p class="mt-3 font-semibold {test.result.well ? 'text-spruce' : 'text-rowan'}" role="status">
      {test.result.well ? 'A client can connect.' : 'A client cannot connect yet.'}
    </p>
  {/if}
  <details class="mt-4">
    <summary class="cursor-pointer font-medium">What to check in the client, in this order</summary>
    <ol class="mt-2 list-decimal space-y-1 pl-6 text-soft">
      <li>Was the client quit altogether and started again after its settings changed?</li>
      <li>Do the settings parse? One comma too many silences most clients.</li>
      <li>Does the address stand in them whole, with the port and /mcp/{endpoint.name}?</li>
      <li>Does the header read “Authorization: Bearer KEY”, with the word Bearer?</li>
      <li>
        Does the client speak Streamable HTTP? If not, use the older transport, or the settings with a command.
      </li>
      <li>
        Does it run on this machine? From another one the service must listen on more than 127.0.0.1 and know its
        public address.
      </li>
    </ol>
  </details>
</section>

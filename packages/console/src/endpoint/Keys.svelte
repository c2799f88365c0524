<script lang="ts">
import { type EndpointDetail, type KeySummary, WORKSHOP } from '@pindro/contract/light';
import Code from '../parts/Code.svelte';
import Empty from '../parts/Empty.svelte';
import Problem from '../parts/Problem.svelte';
import Rows from '../parts/Rows.svelte';
import { api } from '../state/api.js';
import { moment } from '../state/format.js';
import { Action, Resource } from '../state/resource.svelte.js';

/** Keys that open an endpoint, and new ones with just what they need. */
let { endpoint }: { endpoint: EndpointDetail } = $props();

const uid = $props.id();
let caller = $state('');
let stage = $state<'live' | 'draft'>('live');
let readOnly = $state(false);
let only = $state.raw<string[]>([]);
let perMinute = $state('');
let expires = $state('');
let attributes = $state('');
let propose = $state(false);
let own = $state.raw<Record<string, string>>({});
/** Servers whose tools are called with a credential of the caller's own. */
const ownServers = $derived([
  ...new Set(
    endpoint.toolList.flatMap(({ credential, target }) => (credential === 'caller' ? [target.split('.')[0]!] : [])),
  ),
]);
const credentials = new Resource(() => api.listCredentials(), ['credential']);
const pairs = $derived(
  Object.fromEntries(
    attributes
      .split('\n')
      .map((line) => line.split('='))
      .flatMap(([name, ...rest]) => (name?.trim() && rest.length > 0 ? [[name.trim(), rest.join('=').trim()]] : [])),
  ),
);
const issue = new Action(() =>
  api.issueKey({
    body: {
      name: caller,
      caller,
      endpoints: [endpoint.name],
      stage,
      readOnly,
      propose,
      credentials: Object.fromEntries(Object.entries(own).filter(([, name]) => name !== '')),
      attributes: pairs,
      ...(only.length > 0 && { tools: only }),
      ...(perMinute && { perMinute: Number(perMinute) }),
      ...(expires && { expires }),
    },
  }),
);
const revoke = new Action((id: string) => api.revokeKey({ id }));
const rotate = new Action((id: string) => api.rotateKey({ id, body: {} }));
const made = $derived(rotate.result ?? issue.result);
const limits = (key: KeySummary) =>
  [
    key.tools && `only ${key.tools.join(', ')}`,
    key.readOnly && 'only what reads',
    key.propose && 'may propose',
    ...Object.entries(key.credentials).map(([server, name]) => `${server} with ${name}`),
    key.perMinute && `${key.perMinute} calls a minute`,
    key.expiresAt && `until ${moment(key.expiresAt)}`,
  ]
    .filter(Boolean)
    .join('; ') || 'none';
</script>

{#if revoke.problem || rotate.problem}<div class="mb-4">
    <Problem problem={(revoke.problem ?? rotate.problem)!} />
  </div>{/if}
{#if made}<p class="mb-1 font-medium" role="status">
    Key for {made.summary.caller}. It can be copied now and never again.
  </p>
  <div class="mb-6"><Code text={made.key} label="key" secret={made.key} /></div>{/if}
{#if endpoint.keyList.length === 0}
  <Empty title="No key opens it yet"
    >Make one below, or with <code class="chip">pindro key issue NAME --endpoint {endpoint.name}</code>.</Empty
  >
{:else}
  <Rows label="Keys" headings={['Key', 'Calls for', 'Sees', 'Limits', 'Last used', '']} items={endpoint.keyList}>
    {#snippet row(key)}
      <td>{key.name} <span class="block font-mono text-sm text-soft">{key.beginning}</span></td>
      <td
        >{key.caller}{#each Object.entries(key.attributes) as [name, value] (name)}<span class="block text-sm text-soft"
            >{name}: {String(value)}</span
          >{/each}</td
      >
      <td>{key.stage === 'draft' ? 'drafts' : 'live'}</td>
      <td class="text-sm">{limits(key)}</td>
      <td class="whitespace-nowrap text-soft">{moment(key.lastUsedAt)}</td>
      <td class="whitespace-nowrap"
        ><button
          type="button"
          class="button px-2 py-1 text-sm"
          aria-label="Rotate {key.name}"
          onclick={() =>
            confirm(`Make a new key for “${key.name}”? The old one is good for another day.`) &&
            void rotate.run(key.id)}>Rotate</button
        >
        <button
          type="button"
          class="button px-2 py-1 text-sm"
          aria-label="Revoke {key.name}"
          onclick={() =>
            confirm(`Revoke “${key.name}”? Whoever uses it is cut off at once.`) && void revoke.run(key.id)}
          >Revoke</button
        ></td
      >
    {/snippet}
  </Rows>
{/if}
<form
  class="panel mt-6"
  onsubmit={(event) => {
    event.preventDefault();
    rotate.result = undefined;
    void issue.run();
  }}
>
  <h2 class="mb-3">A new key</h2>
  <div class="grid gap-4 sm:grid-cols-2">
    <div>
      <label class="label" for="{uid}-caller">For whom it calls</label><input
        id="{uid}-caller"
        class="field"
        bind:value={caller}
        required
      />
    </div>
    <div>
      <label class="label" for="{uid}-stage">What it sees</label><select
        id="{uid}-stage"
        class="field"
        bind:value={stage}><option value="live">what is live</option><option value="draft">drafts</option></select
      >
    </div>
    <div>
      <label class="label" for="{uid}-expires">How long it is good</label><select
        id="{uid}-expires"
        class="field"
        bind:value={expires}
        ><option value="">until it is revoked</option><option value="1d">a day</option><option value="30d"
          >30 days</option
        ><option value="90d">90 days</option><option value="365d">a year</option></select
      >
    </div>
    <div>
      <label class="label" for="{uid}-minute">Calls a minute (if limited)</label><input
        id="{uid}-minute"
        class="field"
        type="number"
        min="1"
        bind:value={perMinute}
      />
    </div>
    <div>
      <label class="label" for="{uid}-attributes">What is known of them (if anything)</label><textarea
        id="{uid}-attributes"
        class="field font-mono"
        rows="2"
        bind:value={attributes}
        placeholder="hut=larch"></textarea>
      <p class="text-sm text-soft">One a line; usable as <code class="chip">caller.hut</code> in flows and rules.</p>
    </div>
    {#each ownServers as server (server)}<div>
        <label class="label" for="{uid}-own-{server}">Their own credential for {server}</label><select
          id="{uid}-own-{server}"
          class="field"
          value={own[server] ?? ''}
          onchange={(event) => (own = { ...own, [server]: event.currentTarget.value })}
          ><option value="">none: what needs it is refused</option
          >{#each credentials.value?.items ?? [] as one (one.name)}<option value={one.name}>{one.name}</option
            >{/each}</select
        >
      </div>{/each}
    <fieldset>
      <legend class="label">Which tools it opens</legend>
      <label class="flex items-baseline gap-2"
        ><input type="checkbox" bind:checked={readOnly} /> Only those that change nothing</label
      >
      {#if endpoint.name === WORKSHOP}<label class="flex items-baseline gap-2"
          ><input type="checkbox" bind:checked={propose} /> Also read flows whole and propose changes</label
        >{/if}
      <div class="mt-1 flex flex-wrap gap-x-4 gap-y-1">
        {#each endpoint.toolList as tool (tool.name)}<label class="flex items-baseline gap-2"
            ><input
              type="checkbox"
              checked={only.includes(tool.name)}
              onchange={() =>
                (only = only.includes(tool.name) ? only.filter((one) => one !== tool.name) : [...only, tool.name])}
            /> <span class="font-mono text-sm">{tool.name}</span></label
          >{/each}
      </div>
      <p class="text-sm text-soft">
        {only.length === 0
          ? 'None chosen: it opens all, and those that come later.'
          : `It opens ${only.length} of ${endpoint.toolList.length}, and none that comes later.`}
      </p>
    </fieldset>
  </div>
  {#if issue.problem}<div class="mt-4"><Problem problem={issue.problem} /></div>{/if}
  <button class="button button-main mt-4" disabled={issue.busy}>Make the key</button>
</form>

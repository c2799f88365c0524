<script lang="ts">
import { KEY_GAP } from '@pindro/contract';
import type { JsonSchema } from '@pindro/core/browser';
import Code from '../parts/Code.svelte';
import Empty from '../parts/Empty.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import Problem from '../parts/Problem.svelte';
import Rows from '../parts/Rows.svelte';
import Settings from '../parts/Settings.svelte';
import State from '../parts/State.svelte';
import { api } from '../state/api.js';
import { moment } from '../state/format.js';
import { Action, Resource } from '../state/resource.svelte.js';

let { name }: { name: string } = $props();

const endpoint = new Resource(() => api.getEndpoint({ name }), ['endpoint', 'key', 'client', 'flow', 'server']);
const connect = new Resource(() => api.connectEndpoint({ name }));
let caller = $state('');
const issue = new Action((who: string) => api.issueKey({ body: { name: who, caller: who, endpoints: [name] } }));
const revoke = new Action((id: string) => api.revokeKey({ id }));
const uid = $props.id();

interface Argument {
  type?: string;
  enum?: unknown[];
  format?: string;
  description?: string;
}
const argumentsOf = (schema: JsonSchema) => Object.entries((schema.properties ?? {}) as Record<string, Argument>);
const needed = (schema: JsonSchema, argument: string) =>
  Array.isArray(schema.required) && schema.required.includes(argument);
const takes = ({ type, enum: choices, format }: Argument) => choices?.join(', ') ?? format ?? type ?? 'anything';
const settings = $derived.by(() => {
  const key = issue.result?.key;
  const all = connect.value?.settings ?? [];
  return key ? all.map((one) => ({ ...one, text: one.text.replaceAll(KEY_GAP, key) })) : all;
});
</script>

<Loaded from={endpoint}>
  {#snippet children(now)}
    <PageHead title={now.title} about={now.instructions} back={{ to: '/endpoints', label: 'Endpoints' }} />
    <div class="mb-6"><Code text={now.url} label="address" /></div>
    <section class="mb-8">
      <h2 class="mb-2">Tools</h2>
      {#if now.toolList.length === 0}
        <Empty title="No tool on it yet">Open a <a class="link" href="/flows">flow</a> and press Expose.</Empty>
      {/if}
      <ul class="space-y-3">
        {#each now.toolList as tool (tool.name)}
          <li class="panel">
            <div class="flex flex-wrap items-baseline justify-between gap-2">
              <h3 class="font-mono font-semibold">{tool.name}</h3>
              <span class="text-sm text-soft">{#if tool.target.startsWith('flow ')}<a class="link" href="/flows/{tool.target.slice(5)}">{tool.target}</a>{:else}<a class="link" href="/servers/{tool.target.split('.')[0]}">{tool.target}</a>{/if}</span>
            </div>
            <p class="mt-1">{tool.description}</p>
            {#if tool.trouble}<p class="mt-1 text-rowan">{tool.trouble}</p>{/if}
            {#if argumentsOf(tool.schema as JsonSchema).length > 0}
              <dl class="mt-3 grid gap-x-4 gap-y-1 text-sm sm:grid-cols-[max-content_max-content_1fr]">
                {#each argumentsOf(tool.schema as JsonSchema) as [argument, schema] (argument)}
                  <dt class="font-mono">{argument}{#if !needed(tool.schema as JsonSchema, argument)}{' '}<span class="text-soft">(may be left out)</span>{/if}</dt>
                  <dd class="text-soft">{takes(schema)}</dd>
                  <dd class="text-soft">{schema.description ?? ''}</dd>
                {/each}
              </dl>
            {/if}
            {#if tool.set.length > 0}<p class="mt-2 text-sm text-soft">Set by you, not seen by the model: <span class="font-mono">{tool.set.join(', ')}</span></p>{/if}
          </li>
        {/each}
      </ul>
    </section>
    <section class="mb-8">
      <h2 class="mb-2">Connect a client</h2>
      <form class="mb-4 flex flex-wrap items-end gap-2" onsubmit={(event) => { event.preventDefault(); void issue.run(caller); }}>
        <div><label class="label" for="{uid}-caller">Make a key for</label><input id="{uid}-caller" class="field" bind:value={caller} required placeholder="who connects" /></div>
        <button class="button button-main" disabled={issue.busy}>Make a key</button>
      </form>
      {#if issue.problem}<div class="mb-4"><Problem problem={issue.problem} /></div>{/if}
      {#if issue.result}<p class="mb-1 font-medium">Key for {issue.result.summary.caller}, shown this once. It stands in the settings below already.</p><div class="mb-4"><Code text={issue.result.key} label="key" /></div>{/if}
      {#if settings.length > 0}<Settings {settings} />{/if}
      <div class="mt-4" aria-live="polite">
        {#if now.clients.length === 0}<p class="text-soft">No client is connected now. The first one shows up here at once.</p>{/if}
        {#each now.clients as client (client.since + client.name)}<p><State state="running" label="connected" /> {client.name} {client.version} with key “{client.key}”, since {moment(client.since)}</p>{/each}
      </div>
    </section>
    <section>
      <h2 class="mb-2">Keys</h2>
      {#if revoke.problem}<div class="mb-2"><Problem problem={revoke.problem} /></div>{/if}
      {#if now.keyList.length === 0}
        <Empty title="No key opens it yet">Make one above, or with <code class="chip">pindro key issue NAME --endpoint {name}</code>.</Empty>
      {:else}
        <Rows label="Keys" headings={['Key', 'Calls for', 'Sees', 'Last used', '']} items={now.keyList}>
          {#snippet row(key)}
            <td>{key.name} <span class="font-mono text-sm text-soft">{key.beginning}</span></td>
            <td>{key.caller}</td>
            <td>{key.stage}</td>
            <td class="whitespace-nowrap text-soft">{moment(key.lastUsedAt)}</td>
            <td><button type="button" class="button px-2 py-1 text-sm" aria-label="Revoke {key.name}" onclick={() => confirm(`Revoke “${key.name}”? Whoever uses it is cut off at once.`) && void revoke.run(key.id)}>Revoke</button></td>
          {/snippet}
        </Rows>
      {/if}
    </section>
  {/snippet}
</Loaded>

<script lang="ts">
import Field from '../../forms/Field.svelte';
import { plainPlace } from '../../forms/place.js';
import { api } from '../../state/api.js';
import { plural } from '../../state/format.js';
import { Action, Resource } from '../../state/resource.svelte.js';
import ImportedDocuments from './ImportedDocuments.svelte';
import Problem from '../text/Problem.svelte';
import State from '../text/State.svelte';
import Window from '../text/Window.svelte';

/** Flows out of an OpenAPI document: read it, choose operations, and later bring a newer document in. */
let { open = $bindable() }: { open: boolean } = $props();
const uid = $props.id();
let where = $state('');
let text = $state('');
let name = $state('');
let credential = $state('');
let endpoint = $state('');
let chosen = $state<string[]>([]);
const endpoints = new Resource(() => api.listEndpoints(), ['endpoint']);
const source = () => (where.trim() ? { url: where.trim() } : { text });
const read = new Action(async () => {
  const found = await api.inspectDocument({ body: source() });
  chosen = found.operations.filter((one) => !one.trouble && !one.made).map((one) => one.id);
  name ||= found.operations[0]?.flow.split('-')[0] ?? 'api';
  return found;
});
const take = new Action(() =>
  api.importDocument({
    body: {
      ...{ ...source(), name, operations: chosen },
      ...(credential && { credential }),
      ...(endpoint.trim() && { endpoint: endpoint.trim() }),
    },
  }),
);
const toggle = (id: string, on: boolean) => (chosen = on ? [...chosen, id] : chosen.filter((one) => one !== id));
</script>

<Window
  bind:open
  title="Flows from an OpenAPI document"
  about="Each operation becomes a flow with one HTTP request, with its inputs, descriptions and types."
>
  {#if take.result}
    <p class="mb-2 font-semibold text-spruce">{plural(take.result.flows.length, 'flow')} of {take.result.title}:</p>
    <ul class="list-disc pl-5">
      {#each take.result.flows as flow (flow)}<li><a class="link" href="/flows/{flow}">{flow}</a></li>{/each}
    </ul>
    {#if take.result.tools.length > 0}<p class="mt-3">
        <a class="link" href="/endpoints/{endpoint.trim()}"
          >{plural(take.result.tools.length, 'tool')} on endpoint {endpoint.trim()}</a
        >
      </p>{/if}
  {:else}
    <form
      onsubmit={(event) => {
        event.preventDefault();
        void read.run();
      }}
    >
      <label class="label" for="{uid}-where">Address of the document</label>
      <input id="{uid}-where" class="field mb-3" bind:value={where} placeholder="https://…/openapi.json" />
      <details class="mb-3">
        <summary class="cursor-pointer text-soft">or paste it</summary><label class="sr-only" for="{uid}-text"
          >The document</label
        ><textarea id="{uid}-text" class="field mt-2 font-mono text-sm" rows="6" bind:value={text}></textarea>
      </details>
      {#if read.problem}<div class="mb-3"><Problem problem={read.problem} /></div>{/if}
      <button class="button" disabled={read.busy || (where.trim() === '' && text.trim() === '')}
        >{read.busy ? 'Reading …' : 'Inspect'}</button
      >
    </form>
    {#if read.result}
      {@const found = read.result}
      <form
        class="mt-5"
        onsubmit={(event) => {
          event.preventDefault();
          void take.run();
        }}
      >
        <h3 class="font-semibold">{found.title} {found.version}</h3>
        <p class="mb-3 text-sm text-soft">
          {found.bases.join(', ')}{#if found.credential}. It requires {found.credential}.{/if}
        </p>
        <fieldset class="mb-4">
          <legend class="label">Operations</legend>
          <button
            type="button"
            class="link mb-1 text-sm"
            onclick={() =>
              (chosen =
                chosen.length > 0
                  ? []
                  : found.operations.filter((one) => !one.trouble && !one.made).map((one) => one.id))}
            >{chosen.length > 0 ? 'Select none' : 'Select all'}</button
          >
          {#each found.operations as one (one.id)}<label class="flex items-start gap-2 py-1"
              ><input
                type="checkbox"
                class="mt-1 accent-[var(--spruce)]"
                disabled={one.trouble !== null || one.made}
                checked={chosen.includes(one.id)}
                onchange={(event) => toggle(one.id, event.currentTarget.checked)}
              /><span
                >{one.title} <span class="chip">{one.method} {one.path}</span>{#if one.made}
                  <State state="live" label="already a flow" />{/if}{#if one.trouble}<span
                    class="block text-sm text-ochre">{one.trouble}</span
                  >{/if}</span
              ></label
            >{/each}
        </fieldset>
        <label class="label" for="{uid}-name">Name of the document; flow names start with it</label>
        <input id="{uid}-name" class="field mb-4" bind:value={name} required />
        {#if found.credential}<Field
            id="{uid}-credential"
            label="Credential to send"
            schema={{
              form: 'credential',
              description: found.header ? `A credential with the header ${found.header}` : '',
            }}
            value={credential}
            path={[]}
            place={plainPlace()}
            required={false}
            plain
            onChange={(value) => (credential = String(value ?? ''))}
          />{/if}
        <label class="label" for="{uid}-endpoint">Endpoint <span class="text-soft">(optional)</span></label>
        <input
          id="{uid}-endpoint"
          class="field mb-1"
          list="{uid}-endpoints"
          bind:value={endpoint}
          aria-describedby="{uid}-endpoint-about"
        />
        <datalist id="{uid}-endpoints"
          >{#each endpoints.value?.items ?? [] as one (one.name)}<option value={one.name}></option>{/each}</datalist
        >
        <p id="{uid}-endpoint-about" class="mb-4 text-sm text-soft">
          Publishes the flows and adds each to this endpoint as a tool.
        </p>
        {#if take.problem}<div class="mb-3"><Problem problem={take.problem} /></div>{/if}
        <button class="button button-main" disabled={take.busy || chosen.length === 0}
          >{take.busy ? 'Creating …' : `Create ${plural(chosen.length, 'flow')}`}</button
        >
      </form>
    {/if}
    <ImportedDocuments />
  {/if}
</Window>

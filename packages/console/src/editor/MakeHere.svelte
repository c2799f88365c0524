<script lang="ts">
import Problem from '../parts/Problem.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';

/** Makes a credential, a model connection or a table in the middle of filling a form. What was typed stays in sight until it is saved. */
let { sort, onMade }: { sort: string; onMade: (name: string) => void } = $props();
const uid = $props.id();
let name = $state('');
let secret = $state('');
let kind = $state<'bearer' | 'header' | 'basic'>('bearer');
let header = $state('');
let base = $state('');
let model = $state('');
let columns = $state('name: text');

const make = new Action(async () => {
  if (sort === 'credential')
    await api.addCredential({
      body: { name, secret, kind, ...(kind === 'header' && { header }), ...(kind === 'basic' && { account: header }) },
    });
  else if (sort === 'model') await api.addModel({ body: { name, base, model } });
  else
    await api.putTable({
      body: {
        name,
        columns: Object.fromEntries(
          columns
            .split(/[\n,]/)
            .filter((line) => line.includes(':'))
            .map((line) => line.split(':').map((part) => part.trim())),
        ) as never,
      },
    });
  onMade(name);
});
</script>

<div class="mt-2 rounded-md border border-line p-3" role="group" aria-label="New {sort}">
  <label class="label" for="{uid}-name">Name</label>
  <input id="{uid}-name" class="field mb-2" bind:value={name} placeholder="lower-case, with hyphens" />
  {#if sort === 'credential'}
    <label class="label" for="{uid}-kind">How it goes along</label>
    <select id="{uid}-kind" class="field mb-2" bind:value={kind}><option value="bearer">Authorization: Bearer</option><option value="header">a header of its own</option><option value="basic">user name and password</option></select>
    {#if kind !== 'bearer'}<label class="label" for="{uid}-header">{kind === 'basic' ? 'User name' : 'Name of the header'}</label><input id="{uid}-header" class="field mb-2" bind:value={header} />{/if}
    <label class="label" for="{uid}-secret">Secret</label>
    <input id="{uid}-secret" class="field mb-2 font-mono" bind:value={secret} autocomplete="off" spellcheck="false" />
    <p class="mb-2 text-sm text-soft">You see it until it is saved; then it is sealed and never shown again.</p>
  {:else if sort === 'model'}
    <label class="label" for="{uid}-base">Base address</label><input id="{uid}-base" class="field mb-2" bind:value={base} placeholder="https://…/v1" />
    <label class="label" for="{uid}-model">Name of the model there</label><input id="{uid}-model" class="field mb-2" bind:value={model} />
  {:else}
    <label class="label" for="{uid}-columns">Columns and their types, one a line</label>
    <textarea id="{uid}-columns" class="field mb-2 font-mono" rows="4" bind:value={columns}></textarea>
    <p class="mb-2 text-sm text-soft">Types: text, number, whole, boolean, date, json.</p>
  {/if}
  {#if make.problem}<div class="mb-2"><Problem problem={make.problem} /></div>{/if}
  <button type="button" class="button button-main" disabled={make.busy || name === ''} onclick={() => void make.run()}>{make.busy ? 'Saving …' : 'Save and use'}</button>
</div>

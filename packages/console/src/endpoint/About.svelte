<script lang="ts">
import type { EndpointDetail } from '@pindro/contract/light';
import Problem from '../parts/Problem.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';
import IconField from './IconField.svelte';

/** What an endpoint says of itself, its name, and who may use it. */
let { endpoint }: { endpoint: EndpointDetail } = $props();

const uid = $props.id();
// svelte-ignore state_referenced_locally
let given = $state({
  title: endpoint.title,
  description: endpoint.description,
  instructions: endpoint.instructions,
  access: endpoint.access,
  icon: endpoint.icon ?? '',
});
// svelte-ignore state_referenced_locally
let name = $state(endpoint.name);
let removing = $state('');
const save = new Action(() => api.changeEndpoint({ name: endpoint.name, body: given }));
const rename = new Action(async () => {
  const renamed = await api.renameEndpoint({ name: endpoint.name, body: { to: name } });
  router.go(`/endpoints/${renamed.name}?view=about`);
});
const remove = new Action(async () => {
  await api.removeEndpoint({ name: endpoint.name, query: { anyway: 'true' } });
  router.go('/endpoints');
});
</script>

<form
  class="panel mb-6 space-y-4"
  onsubmit={(event) => {
    event.preventDefault();
    void save.run();
  }}
>
  <div>
    <label class="label" for="{uid}-title">Title</label><input
      id="{uid}-title"
      class="field"
      bind:value={given.title}
    />
  </div>
  <div>
    <label class="label" for="{uid}-description">What it is for, for the people who choose it</label><textarea
      id="{uid}-description"
      class="field"
      rows="2"
      bind:value={given.description}></textarea>
  </div>
  <div>
    <label class="label" for="{uid}-instructions">What the connecting model is told first</label><textarea
      id="{uid}-instructions"
      class="field"
      rows="3"
      bind:value={given.instructions}></textarea>
    <p class="text-sm text-soft">Rules that hold for all tools belong here, and not into each description.</p>
  </div>
  <IconField label="Picture, for people" value={given.icon || null} change={(icon) => (given.icon = icon)} />
  <fieldset>
    <legend class="label">Who may use it</legend>
    <label class="flex items-baseline gap-2"
      ><input type="radio" bind:group={given.access} value="keys" /> Holders of a key that opens it</label
    >
    <label class="flex items-baseline gap-2"
      ><input type="radio" bind:group={given.access} value="open" /> Anybody who reaches its address</label
    >
    {#if given.access === 'open'}<p
        class="mt-2 rounded-md border border-rowan bg-rowan-wash p-3 text-rowan"
        role="note"
      >
        <strong>Every tool on it can then be called without a key</strong>, on nobody's behalf. It answers only on this
        machine, unless the service was started with --open-to-all.
      </p>{/if}
  </fieldset>
  {#if save.problem}<Problem problem={save.problem} />{/if}
  <p class="flex items-center gap-3">
    <button class="button button-main" disabled={save.busy}>Save</button>{#if save.result}<span
        class="text-spruce"
        role="status">Saved.</span
      >{/if}
  </p>
</form>
<form
  class="panel mb-6"
  onsubmit={(event) => {
    event.preventDefault();
    void rename.run();
  }}
>
  <label class="label" for="{uid}-name">Name in its address</label>
  <div class="flex flex-wrap gap-2">
    <input id="{uid}-name" class="field max-w-80 font-mono" bind:value={name} required /><button
      class="button"
      disabled={rename.busy || name === endpoint.name}>Rename</button
    >
  </div>
  <p class="mt-1 text-sm text-soft">
    Clients that know the old address are still answered.{#if endpoint.formerly.length > 0}{' '}It still answers as {endpoint.formerly.join(
        ', ',
      )}.{/if}
  </p>
  {#if rename.problem}<div class="mt-3"><Problem problem={rename.problem} /></div>{/if}
</form>
<form
  class="panel"
  onsubmit={(event) => {
    event.preventDefault();
    void remove.run();
  }}
>
  <label class="label" for="{uid}-remove">Remove it: write its name</label>
  <div class="flex flex-wrap gap-2">
    <input id="{uid}-remove" class="field max-w-80 font-mono" bind:value={removing} autocomplete="off" /><button
      class="button"
      disabled={remove.busy || removing !== endpoint.name}>Remove the endpoint</button
    >
  </div>
  <p class="mt-1 text-sm text-soft">
    Its sessions end at once. Flows, keys and the record of runs stay. For ten minutes it can be put back with “pindro
    undo”.
  </p>
  {#if remove.problem}<div class="mt-3"><Problem problem={remove.problem} /></div>{/if}
</form>

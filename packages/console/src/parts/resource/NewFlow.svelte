<script lang="ts">
import { nameFrom } from '@pindro/core/browser';
import { api } from '../../state/api.js';
import { Action } from '../../state/resource.svelte.js';
import { router } from '../../state/router.svelte.js';
import Problem from '../text/Problem.svelte';
import { STARTERS } from './starters.js';
import Window from '../text/Window.svelte';

/** A new flow: empty, or taken over from a starter. */
let { open = $bindable() }: { open: boolean } = $props();
const uid = $props.id();
let title = $state('');
let chosen = $state(router.query.get('new') ?? '');
const name = $derived(nameFrom(title));

/** What there is, for a starter that names it. */
async function around() {
  const lists = [api.listModels(), api.listEndpoints(), api.listServers()] as const;
  const [models, endpoints, servers] = await Promise.all(
    lists.map((list) => list.then(({ items }) => items.map((one) => one.name)).catch((): string[] => [])),
  );
  return { models: models!, endpoints: endpoints!, servers: servers! };
}
const make = new Action(async () => {
  const starter = STARTERS.find((one) => one.name === chosen);
  const rest = starter ? starter.document(await around()) : { steps: {} };
  const document = { format: 'pindro/flow@1', name, title, ...rest };
  await api.saveDraft({ name, body: { document: document, fresh: true } });
  if (starter?.form)
    await api.createEntry({ body: { flow: name, settings: { kind: 'form', title } } }).catch(() => undefined);
  open = false;
  router.go(`/flows/${name}`);
});
</script>

<Window bind:open title="New flow">
  <form
    onsubmit={(event) => {
      event.preventDefault();
      void make.run();
    }}
  >
    <label class="label" for="{uid}-title">Title</label>
    <!-- svelte-ignore a11y_autofocus -->
    <input
      id="{uid}-title"
      class="field mb-1"
      bind:value={title}
      required
      autofocus
      autocomplete="off"
      placeholder="Reserve bunks"
    />
    <p class="mb-4 text-sm text-soft">Its name is <span class="chip">{name || '…'}</span></p>
    <fieldset class="mb-4">
      <legend class="label">Template</legend>
      <label class="flex items-start gap-2 py-1">
        <input type="radio" class="tick mt-1" bind:group={chosen} value="" /><span>nothing</span>
      </label>
      {#each STARTERS as one (one.name)}
        <label class="flex items-start gap-2 py-1">
          <input type="radio" class="tick mt-1" bind:group={chosen} value={one.name} />
          <span>{one.title} <span class="block text-sm text-soft">{one.about}</span></span>
        </label>
      {/each}
    </fieldset>
    {#if make.problem}<div class="mb-4"><Problem problem={make.problem} /></div>{/if}
    <button class="button button-main" disabled={make.busy || name === ''}
      >{make.busy ? 'Creating …' : 'Create'}</button
    >
  </form>
</Window>

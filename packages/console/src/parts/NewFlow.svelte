<script lang="ts">
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';
import Problem from './Problem.svelte';
import { STARTERS } from './starters.js';
import Window from './Window.svelte';

/** A new flow: empty, or taken over from a starter. */
let { open = $bindable() }: { open: boolean } = $props();
const uid = $props.id();
let title = $state('');
let starter = $state('');
const name = $derived(
  title
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, '-')
    .replace(/^[^a-z]+|-+$/g, ''),
);
const make = new Action(async () => {
  const { items } = await api.listFlows();
  if (items.some((flow) => flow.name === name))
    throw new Error(`There is a flow "${name}" already. Take another title.`);
  const document = {
    format: 'pindro/flow@1',
    name,
    title,
    ...(STARTERS.find((one) => one.name === starter)?.document ?? { steps: {} }),
  };
  await api.saveDraft({ name, body: { document: document as never } });
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
    <input id="{uid}-title" class="field mb-1" bind:value={title} required autofocus placeholder="Reserve bunks" />
    <p class="mb-4 text-sm text-soft">Its name is <span class="chip">{name || '…'}</span></p>
    <fieldset class="mb-4">
      <legend class="label">Begin with</legend>
      <label class="flex items-start gap-2 py-1"
        ><input type="radio" class="mt-1 accent-[var(--spruce)]" bind:group={starter} value="" /><span>nothing</span
        ></label
      >
      {#each STARTERS as one (one.name)}<label class="flex items-start gap-2 py-1"
          ><input type="radio" class="mt-1 accent-[var(--spruce)]" bind:group={starter} value={one.name} /><span
            >{one.title} <span class="block text-sm text-soft">{one.about}</span></span
          ></label
        >{/each}
    </fieldset>
    {#if make.problem}<div class="mb-4"><Problem problem={make.problem} /></div>{/if}
    <button class="button button-main" disabled={make.busy || name === ''}
      >{make.busy ? 'Making it …' : 'Make it'}</button
    >
  </form>
</Window>

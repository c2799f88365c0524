<script lang="ts">
import Problem from '../parts/text/Problem.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';

/** Finds servers in a catalogue at an address of one's own; what is chosen is attached like anything that is pasted. */
let { onChoose }: { onChoose: (text: string) => void } = $props();
const uid = $props.id();
const KEPT = 'pindro.catalogue';
let address = $state(localStorage.getItem(KEPT) ?? '');
let words = $state('');
const look = new Action(async () => {
  const found = await api.searchCatalogue({ body: { address: address.trim(), words } });
  localStorage.setItem(KEPT, address.trim());
  return found;
});
</script>

<details class="mb-3">
  <summary class="field-more">Search a catalogue</summary>
  <form
    class="mt-2"
    onsubmit={(event) => {
      event.preventDefault();
      void look.run();
    }}
  >
    <label class="label" for="{uid}-address">Address of the catalogue</label>
    <input
      id="{uid}-address"
      class="field mb-2"
      type="url"
      required
      placeholder="https://registry.alder-ridge.example/v0/servers"
      bind:value={address}
    />
    <label class="label" for="{uid}-words">Words</label>
    <div class="flex gap-2">
      <input id="{uid}-words" class="field" type="search" placeholder="trail report" bind:value={words} />
      <button class="button" disabled={look.busy}>{look.busy ? 'Looking …' : 'Search'}</button>
    </div>
  </form>
  <div class="mt-2" aria-live="polite">
    {#if look.problem}<Problem problem={look.problem} />{/if}
    {#if look.result}
      <ul class="divide-y divide-line rounded-md border border-line" aria-label="Servers of the catalogue">
        {#each look.result.items as one (one.name + one.version)}
          <li>
            <button
              type="button"
              class="w-full px-3 py-2 text-left hover:bg-sunk"
              onclick={() => onChoose(one.text)}
            >
              <span class="font-semibold wrap-anywhere">{one.name}</span>
              <span class="text-sm text-soft">{one.version}</span>
              <span class="block text-sm text-soft">{one.title || one.description}</span>
            </button>
          </li>
        {:else}<li class="px-3 py-2 text-soft">No matching servers.</li>{/each}
      </ul>
      {#if look.result.more > 0}<p class="hint">{look.result.more} more; add words to narrow the search.</p>{/if}
    {/if}
  </div>
</details>

<script lang="ts">
import Problem from '../parts/text/Problem.svelte';
import { Attaching, Pasted } from './attaching.svelte.js';
import Catalogue from './Catalogue.svelte';
import RecognizedCard from './RecognizedCard.svelte';

/** Attaches tool servers from whatever one has of them. What was understood is shown before anything is asked. */
let { onMade }: { onMade: (name: string) => void } = $props();
const uid = $props.id();
const pasted = new Pasted();
let over = $state(false);
// After attaching one of several, the others remain.
const cards = $derived(
  pasted.items.map(
    (server) =>
      new Attaching(
        server,
        () => pasted.source,
        (name) => pasted.items.length === 1 && onMade(name),
      ),
  ),
);
$effect(() => {
  const now = cards;
  return () => {
    for (const one of now) one.leave();
  };
});
</script>

<label class="label" for="{uid}-text">Server settings</label>
<!-- svelte-ignore a11y_autofocus -->
<textarea
  id="{uid}-text"
  class="field font-mono text-sm {over ? 'drop-place-over' : ''}"
  rows="4"
  autofocus
  spellcheck="false"
  autocomplete="off"
  placeholder="https://lift.example/mcp"
  aria-describedby="{uid}-about"
  bind:value={pasted.text}
  ondragover={(event) => {
    event.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={(event) => {
    event.preventDefault();
    over = false;
    void pasted.take([...(event.dataTransfer?.files ?? [])]);
  }}></textarea>
<p id="{uid}-about" class="hint mb-3">
  An address, client settings as JSON, a request or command line, or a catalogue entry. Paste it, or drop a file
  here; nothing is contacted before you confirm.
</p>
<Catalogue onChoose={(text) => (pasted.text = text)} />
{#if pasted.problem}<Problem problem={pasted.problem} />{/if}
<div aria-live="polite">
  {#if pasted.items.length > 1}<p class="mb-2 font-semibold">{pasted.items.length} servers:</p>{/if}
  {#each cards as one (one.server.at)}<RecognizedCard
      {one}
      many={pasted.items.length > 1}
      stale={pasted.busy}
      onChoose={(name, secret) => pasted.choose(name, secret)}
    />{/each}
</div>

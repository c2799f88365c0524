<script lang="ts">
import When from '../../parts/text/When.svelte';
import Ear from '@lucide/svelte/icons/ear';
import type { Trial } from './trial.svelte.js';

/** Instead of typing an input one waits for the next real call, hook or message. */
let { trial }: { trial: Trial } = $props();
</script>

<div class="mt-3" aria-live="polite">
  {#if trial.listening}
    <p class="busy mb-2">Waiting for the next call, webhook or message. The canvas follows it.</p>
    <button type="button" class="button button-small" onclick={() => trial.listen(false)}>Stop waiting</button>
  {:else}
    <button type="button" class="button button-small" onclick={() => trial.listen(true)}>
      <Ear size={15} aria-hidden="true" /> Wait for the next live run
    </button>
    {#if trial.caught}
      <p class="mt-2 text-sm text-soft">
        Following <a class="link" href="/runs/{trial.caught.id}">the run of <When at={trial.caught.startedAt} /></a>
        for
        {trial.caught.caller}; its input is saved above.
      </p>
    {/if}
  {/if}
</div>

<script lang="ts">
import type { ProblemDetail } from '@pindro/contract/light';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';
import Problem from './Problem.svelte';

/** What is to become of a problem: mended, expected for some days, or open again. */
let { problem, onJudged }: { problem: ProblemDetail; onJudged: (next: ProblemDetail) => void } = $props();
const uid = $props.id();
let note = $state('');
let days = $state(7);
const judge = new Action(async (state: 'open' | 'expected' | 'mended') => {
  onJudged(
    await api.judgeProblem({ id: problem.id, body: { state, note, ...(state === 'expected' && { days }) } }),
  );
  note = '';
});
const isOpen = $derived(problem.state === 'open' || problem.state === 'returned');
</script>

<form class="mt-4 space-y-2 border-t border-line pt-3" onsubmit={(event) => event.preventDefault()}>
  <label class="label" for="{uid}-note">By which change, or why</label>
  <input id="{uid}-note" class="field" maxlength="500" bind:value={note} />
  <div class="flex flex-wrap items-end gap-2">
    {#if isOpen}
      <button
        type="button"
        class="button button-small"
        disabled={judge.busy}
        onclick={() => void judge.run('mended')}
      >
        It is mended
      </button>
      <button
        type="button"
        class="button button-small"
        disabled={judge.busy}
        onclick={() => void judge.run('expected')}
      >
        Expected for
      </button>
      <label class="flex items-center gap-1 text-sm">
        <input class="field w-16" type="number" min="1" max="365" bind:value={days} /> days
      </label>
    {:else}
      <button
        type="button"
        class="button button-small"
        disabled={judge.busy}
        onclick={() => void judge.run('open')}
      >
        Look at it after all
      </button>
    {/if}
  </div>
  {#if judge.problem}<Problem problem={judge.problem} />{/if}
</form>

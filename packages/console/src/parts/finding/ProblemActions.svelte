<script lang="ts">
import type { ProblemDetail } from '@pindro/contract/light';
import { api } from '../../state/api.js';
import { Action } from '../../state/resource.svelte.js';
import Problem from '../text/Problem.svelte';

/** Actions on a problem: resolve, expect for some days, or reopen. */
let { problem, onJudged }: { problem: ProblemDetail; onJudged: (next: ProblemDetail) => void } = $props();
const uid = $props.id();
let note = $state('');
let days = $state(7);
const judge = new Action(async (state: 'open' | 'expected' | 'resolved') => {
  onJudged(
    await api.updateProblem({ id: problem.id, body: { state, note, ...(state === 'expected' && { days }) } }),
  );
  note = '';
});
const isOpen = $derived(problem.state === 'open' || problem.state === 'recurring');
</script>

<form class="mt-4 space-y-2 border-t border-line pt-3" onsubmit={(event) => event.preventDefault()}>
  <label class="label" for="{uid}-note">The change that resolved it, or a reason</label>
  <input id="{uid}-note" class="field" maxlength="500" bind:value={note} />
  <div class="flex flex-wrap items-end gap-2">
    {#if isOpen}
      <button
        type="button"
        class="button button-small"
        disabled={judge.busy}
        onclick={() => void judge.run('resolved')}
      >
        Resolve
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
        Reopen
      </button>
    {/if}
  </div>
  {#if judge.problem}<Problem problem={judge.problem} />{/if}
</form>

<script lang="ts">
import Play from '@lucide/svelte/icons/play';
import Square from '@lucide/svelte/icons/square';
import type { Outcome, ProblemDetails } from '@pindro/contract/light';
import Problem from '../../parts/text/Problem.svelte';
import State from '../../parts/text/State.svelte';
import Value from '../../values/Value.svelte';
import { words } from '../../state/format.js';
import type { Trial } from './trial.svelte.js';
import { localProblem } from '../../state/local-problem.js';

/** How a try went, or what it waits for. */
let { trial, outcome, problem }: { trial: Trial; outcome: Outcome | null; problem: ProblemDetails | null } =
  $props();
const told = $derived(
  outcome?.error && localProblem(outcome.error.message, outcome.error.hint, { code: outcome.error.code }),
);
</script>

<div class="mt-4 space-y-2">
  {#if trial.waiting.length > 0}
    <div class="rounded-md bg-ochre-wash p-3">
      <p class="mb-2 font-medium text-ochre">Paused before {trial.waiting.map(words).join(', ')}</p>
      <div class="flex gap-2">
        <button type="button" class="button button-main" onclick={() => void trial.goOn(true)}>
          <Play size={15} aria-hidden="true" /> Continue
        </button>
        <button type="button" class="button" onclick={() => void trial.goOn(false)}>
          <Square size={15} aria-hidden="true" /> Stop
        </button>
      </div>
    </div>
  {/if}
  {#if problem}<Problem {problem} />{/if}
  {#if outcome}
    {#if told}
      <Problem problem={told} />
    {:else}
      <State state={outcome.state} />
      {#if outcome.waitsFor}
        <p>{outcome.waitsFor.what}. <a class="link" href="/approvals">View pending approval</a></p>
      {:else}
        <Value value={outcome.result} name="result" />
      {/if}
    {/if}
    <p><a class="link" href="/runs/{outcome.run}">View steps</a></p>
  {/if}
</div>

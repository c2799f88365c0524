<script lang="ts">
import type { Approval } from '@pindro/contract/light';
import Problem from '../parts/text/Problem.svelte';
import { api } from '../state/api.js';
import { plural } from '../state/format.js';
import { Action } from '../state/resource.svelte.js';

/** Answers several questions at once, as they were asked. */
let { questions }: { questions: Approval[] } = $props();
/** What asks for something has to be filled in. */
const yesOrNo = $derived(questions.filter((one) => one.tool !== null || one.schema === null));
const decide = new Action(async (decision: 'approved' | 'refused') => {
  for (const { run, path } of yesOrNo) await api.decide({ run, body: { path, decision } });
});
</script>

{#if yesOrNo.length > 1}
  <div class="mb-3 flex flex-wrap items-center gap-2">
    <span class="text-soft">{plural(yesOrNo.length, 'question')} pending together.</span>
    {#each [['approved', 'Approve all'], ['refused', 'Reject all']] as const as [decision, label] (decision)}
      <button
        type="button"
        class="button button-small"
        disabled={decide.busy}
        onclick={() => void decide.run(decision)}
      >
        {label}
      </button>
    {/each}
  </div>
  {#if decide.problem}<Problem problem={decide.problem} />{/if}
{/if}

<script lang="ts">
import Question from '../asked/Question.svelte';
import Together from '../asked/ApproveAll.svelte';
import Problem from '../parts/text/Problem.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';
import { goOn } from './conversation.svelte.js';
import type { Exchange } from './exchange.svelte.js';

/** What a turn waits for, answered in place. */
let { exchange }: { exchange: Exchange } = $props();
const id = $derived(exchange.outcome!.run);
const state = new Resource(async () => {
  const run = await api.getRun({ id, query: { brief: 'true' } });
  const runs = new Set([run.id, ...run.children.map((child) => child.id)]);
  const asked = await api.listApprovals({ query: { open: 'true' } });
  return { run, asked: asked.items.filter((one) => runs.has(one.run)) };
}, ['run', 'approval']);
$effect(() => {
  const run = state.value?.run;
  if (run && run.state !== 'waiting' && run.state !== 'running') void goOn(exchange, run);
});
</script>

{#if (state.value?.asked.length ?? 0) > 1}<Together questions={state.value?.asked ?? []} />{/if}
{#if state.problem}<Problem problem={state.problem} />{/if}
{#each state.value?.asked ?? [] as question (question.run + question.path)}
  <Question {question} from={false} />
{:else}
  <p class="busy" role="status">
    {state.value?.run.state === 'running' ? 'running' : (exchange.outcome?.waitsFor?.what ?? 'waiting')} …
  </p>
{/each}

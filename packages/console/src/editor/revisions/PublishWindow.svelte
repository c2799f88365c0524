<script lang="ts">
import type { FlowDetail } from '@pindro/contract/light';
import Problem from '../../parts/text/Problem.svelte';
import Window from '../../parts/text/Window.svelte';
import { api } from '../../state/api.js';
import { Action, Resource } from '../../state/resource.svelte.js';
import { notices } from '../../state/notices.svelte.js';
import { localProblem } from '../../state/local-problem.js';

/** Publishing says first what it would break. */
let { flow, open = $bindable(), onCompare }: { flow: FlowDetail; open: boolean; onCompare: () => void } = $props();
const uid = $props.id();
let note = $state('');
const impact = new Resource(() => api.flowImpact({ name: flow.name }));
const publish = new Action(async () => {
  const { fresh, revision } = await api.publishFlow({ name: flow.name, body: { note, force: true } });
  open = false;
  notices.tell(
    fresh ? `Revision ${revision} is live.` : `Revision ${revision} is already live; the draft has not changed.`,
  );
});
const WORDS = { tool: 'Tool', flow: 'Flow', entry: 'Entry point', agent: 'Agent' };
</script>

<Window
  bind:open
  title="Publish {flow.title}"
  about="The draft becomes revision {(flow.revisions[0]?.revision ?? 0) + 1}, which never changes and goes live."
>
  {#if impact.value && impact.value.items.length > 0}
    <div class="mb-4 rounded-lg border border-ochre/40 bg-ochre-wash p-4">
      <p class="font-semibold text-ochre">This breaks callers</p>
      <ul class="mt-1 list-disc pl-5">
        {#each impact.value.items as one (one.what + one.name)}<li>
            <span class="font-medium">{WORDS[one.what]} {one.name}.</span>
            {one.why}
          </li>{/each}
      </ul>
    </div>
  {:else if impact.value}<p class="mb-4 text-soft">No tool, flow or entry point that uses it is affected.</p>{/if}
  {#if flow.mistakes.length > 0}<div class="mb-4">
      <Problem
        problem={localProblem('The draft has mistakes', 'Fix them before you publish.', {
          mistakes: flow.mistakes,
        })}
      />
    </div>{/if}
  <form
    onsubmit={(event) => {
      event.preventDefault();
      void publish.run();
    }}
  >
    <label class="label" for="{uid}-note">Note (optional)</label>
    <input id="{uid}-note" class="field mb-4" bind:value={note} />
    {#if publish.problem}<div class="mb-4"><Problem problem={publish.problem} /></div>{/if}
    <div class="flex gap-2">
      <button class="button button-main" disabled={publish.busy || flow.mistakes.length > 0}
        >{publish.busy ? 'Publishing …' : 'Publish'}</button
      >{#if flow.revision !== null}<button
          type="button"
          class="button"
          onclick={() => {
            open = false;
            onCompare();
          }}>View changes</button
        >{/if}
    </div>
  </form>
</Window>

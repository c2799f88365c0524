<script lang="ts">
import Differences from '../editor/revisions/Differences.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import Problem from '../parts/text/Problem.svelte';
import { api } from '../state/api.js';
import { Action, Resource } from '../state/resource.svelte.js';

/** One proposal with its difference from the draft, and its actions. */
let { id }: { id: string } = $props();
const uid = $props.id();
let note = $state('');
const proposal = new Resource(() => api.getProposal({ id }), ['flow', 'workshop']);
const take = new Action((version: number | null) => api.acceptProposal({ id, body: { version, note } }));
const decline = new Action(() => api.rejectProposal({ id, body: { note } }));
</script>

<Loaded from={proposal}>
  {#snippet children(now)}
    {#if now.mistakes.length > 0}
      <div class="mb-4 rounded-md border border-rowan bg-rowan-wash p-3 text-rowan" role="note">
        <strong>It no longer fits the workspace.</strong>
        <ul class="mt-1 list-disc pl-5">
          {#each now.mistakes as mistake, index (index)}<li>
              {mistake.message} <span class="font-mono text-sm">{mistake.at}</span>
            </li>{/each}
        </ul>
      </div>
    {/if}
    {#if now.state === 'taken'}<p class="mb-3">
        Accepted into the draft. <a class="link" href="/flows/{now.flow}">Open the flow</a> to publish it.
      </p>{/if}
    <Differences now={now.comparison} />
    {#if now.state === 'open'}
      <form
        class="mt-4 space-y-3"
        onsubmit={(event) => {
          event.preventDefault();
          void take.run(now.version);
        }}
      >
        <div>
          <label class="label" for="{uid}-note">Reply to the proposer (optional)</label><textarea
            id="{uid}-note"
            class="field"
            rows="2"
            maxlength="2000"
            bind:value={note}></textarea>
        </div>
        {#if take.problem || decline.problem}<Problem problem={(take.problem ?? decline.problem)!} />{/if}
        <p class="flex flex-wrap items-center gap-2">
          <button class="button button-main" disabled={take.busy}>Accept into the draft</button><button
            type="button"
            class="button"
            disabled={decline.busy}
            onclick={() => void decline.run()}>Reject</button
          ><span class="text-sm text-soft">Nothing goes live before you publish the draft.</span>
        </p>
      </form>
    {/if}
  {/snippet}
</Loaded>

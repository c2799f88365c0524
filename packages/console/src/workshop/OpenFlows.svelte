<script lang="ts">
import type { Workshop } from '@pindro/contract/light';
import Empty from '../parts/list/Empty.svelte';
import Problem from '../parts/text/Problem.svelte';
import Rows from '../parts/list/Rows.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';

/** Which flows are open to assistants, and what an assistant can do with them. */
let { workshop }: { workshop: Workshop } = $props();
const turn = new Action((flow: string, open: boolean) =>
  api.updateWorkshop({ body: open ? { open: [flow] } : { close: [flow] } }),
);
</script>

<h2 class="mb-2">Flows that are open to assistants</h2>
<p class="mb-3 text-soft">
  Holders of a key for the workshop see the contract of an open flow, can call it, and can read its recorded runs by
  any caller.
</p>
{#if turn.problem}<div class="mb-3"><Problem problem={turn.problem} /></div>{/if}
{#if workshop.flows.length === 0}
  <Empty title="No flows yet">Draw a <a class="link" href="/flows">flow</a> first.</Empty>
{:else}
  <Rows label="Flows" headings={['Flow', 'Live', 'Open to assistants']} items={workshop.flows}>
    {#snippet row(flow)}
      <td
        ><a class="link" href="/flows/{flow.name}">{flow.title}</a><span class="block font-mono text-sm text-soft"
          >{flow.name}</span
        ></td
      >
      <td class={flow.live ? '' : 'text-soft'}>{flow.live ? 'live' : 'not published yet'}</td>
      <td
        ><input
          type="checkbox"
          aria-label="{flow.name} is open to assistants"
          checked={flow.open}
          disabled={turn.busy}
          onchange={(event) => void turn.run(flow.name, event.currentTarget.checked)}
        /></td
      >
    {/snippet}
  </Rows>
{/if}
<h2 class="mt-8 mb-2">Tools of an assistant</h2>
<dl class="space-y-2">
  {#each workshop.tools as tool (tool.name)}
    <div>
      <dt class="font-medium">
        {tool.title} <span class="font-mono text-sm text-soft">{tool.name}</span>{#if tool.wider}{' '}<span
            class="chip">only with a key that may propose</span
          >{/if}
      </dt>
      <dd class="text-soft">{tool.about}</dd>
    </div>
  {/each}
</dl>

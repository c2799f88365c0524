<script lang="ts">
import type { FlowDetail } from '@pindro/contract/light';
import Problem from '../../parts/text/Problem.svelte';
import State from '../../parts/text/State.svelte';
import { api } from '../../state/api.js';
import { moment } from '../../state/format.js';
import { Action } from '../../state/resource.svelte.js';
import Compare from './Compare.svelte';

/** What was published, and how it differs. */
let { flow }: { flow: FlowDetail } = $props();
const uid = $props.id();
// What is compared follows the flow until somebody chooses.
let chosenFrom = $state<string | null>(null);
let chosenTo = $state<string | null>(null);
const from = $derived(
  chosenFrom ??
    (flow.revision === null ? 'draft' : flow.changed ? 'live' : String(flow.revisions[1]?.revision ?? 'live')),
);
const to = $derived(chosenTo ?? (flow.changed ? 'draft' : 'live'));
const versions = $derived([
  ...flow.revisions.map((one) => ({
    value: String(one.revision),
    label: `revision ${one.revision}${one.live ? ', live' : ''}`,
  })),
  { value: 'draft', label: 'the draft' },
]);
const back = new Action((revision: number) =>
  api.activateRevision({ name: flow.name, revision: String(revision) }),
);
</script>

{#if flow.revisions.length === 0}
  <p class="text-soft">No revisions yet. Publishing creates a revision that never changes.</p>
{:else}
  <ul class="mb-6 divide-y divide-line rounded-lg border border-line bg-card">
    {#each flow.revisions as one (one.revision)}
      <li class="flex flex-wrap items-center justify-between gap-3 px-4 py-2.5">
        <span
          ><span class="font-semibold">Revision {one.revision}</span>
          {#if one.live}<State state="live" />{/if}
          <span class="block text-sm text-soft">{moment(one.publishedAt)}{one.note ? `: ${one.note}` : ''}</span
          ></span
        >
        {#if !one.live}<button
            type="button"
            class="button py-1"
            disabled={back.busy}
            onclick={() => void back.run(one.revision)}>Make live</button
          >{/if}
      </li>
    {/each}
  </ul>
  {#if back.problem}<div class="mb-4"><Problem problem={back.problem} /></div>{/if}
  <div class="mb-4 flex flex-wrap items-end gap-3">
    <div>
      <label class="label" for="{uid}-from">Compare</label><select
        id="{uid}-from"
        class="field"
        value={from}
        onchange={(event) => (chosenFrom = event.currentTarget.value)}
        ><option value="live">the live revision</option>{#each versions as one (one.value)}<option value={one.value}
            >{one.label}</option
          >{/each}</select
      >
    </div>
    <div>
      <label class="label" for="{uid}-to">with</label><select
        id="{uid}-to"
        class="field"
        value={to}
        onchange={(event) => (chosenTo = event.currentTarget.value)}
        ><option value="live">the live revision</option>{#each versions as one (one.value)}<option value={one.value}
            >{one.label}</option
          >{/each}</select
      >
    </div>
  </div>
  {#key `${from} ${to}`}<Compare {flow} {from} {to} />{/key}
{/if}

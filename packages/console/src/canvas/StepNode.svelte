<script lang="ts">
import Wrench from '@lucide/svelte/icons/wrench';
import type { StepCard } from '@pindro/contract/light';
import { Handle, Position } from '@xyflow/svelte';
import Sentence from '../parts/text/Sentence.svelte';
import State from '../parts/text/State.svelte';
import { iconOf } from './icons.js';

interface Data {
  card: StepCard;
  state?: string;
  took?: string;
  lit?: boolean;
  why?: string;
}
let { data }: { data: Data } = $props();

const EDGES: Record<string, string> = {
  done: 'border-spruce',
  failed: 'border-rowan',
  skipped: 'border-line border-dashed',
  running: 'border-glacier',
  waiting: 'border-ochre',
};
const Icon = $derived(iconOf(data.card.kind));
</script>

<Handle type="target" position={Position.Top} class="!opacity-0" isConnectable={false} />
<article
  class="w-[400px] rounded-lg border-2 bg-card p-4 text-left shadow-sm {EDGES[data.state ?? ''] ??
    'border-line'} {data.lit ? 'ring-4 ring-ochre/50' : ''}"
>
  <div class="mb-1.5 flex items-center justify-between gap-2">
    <h3 class="flex items-center gap-2 font-semibold">
      <Icon size={17} class="text-spruce" aria-hidden="true" />{data.card.title}
    </h3>
    {#if data.state}<State
        state={data.state}
        label={data.took ? `${data.state}, ${data.took}` : data.state}
      />{:else}<span class="text-sm text-soft">{data.card.kind}</span>{/if}
  </div>
  <p class="leading-relaxed"><Sentence parts={data.card.sentence} /></p>
  {#if data.why}<p class="mt-1 text-sm text-soft">Skipped: {data.why}.</p>{/if}
  {#if data.card.tools.length > 0}
    <ul class="mt-3 divide-y divide-line border-t border-line" aria-label="Toolbox">
      {#each data.card.tools as tool (tool.from)}
        <li class="flex items-start gap-2 py-1.5 text-sm">
          <Wrench size={14} class="mt-1 shrink-0 text-soft" aria-hidden="true" />
          <span
            ><span class="font-medium">{tool.from}</span>
            <span class="text-soft">{tool.use}</span>{#each tool.set as rule (rule)}<br /><span class="text-soft"
                >set: {rule}</span
              >{/each}</span
          >
        </li>
      {/each}
    </ul>
  {/if}
</article>
<Handle type="source" position={Position.Bottom} class="!opacity-0" isConnectable={false} />

<script lang="ts">
import CircleDashed from '@lucide/svelte/icons/circle-dashed';
import CircleHelp from '@lucide/svelte/icons/circle-question-mark';
import Pause from '@lucide/svelte/icons/pause';
import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
import type { StepCard } from '@pindro/contract/light';
import State from '../../parts/text/State.svelte';
import { plural } from '../../state/format.js';

interface Marks {
  card: StepCard;
  state?: string;
  took?: string;
  held?: boolean;
  mistakes: number;
  toFill?: number;
  warnings?: number;
  change?: 'added' | 'removed' | 'changed';
}
/** How a step stands, at the right of its title. */
let { data }: { data: Marks } = $props();
const CHANGES = { added: 'done', removed: 'failed', changed: 'changed' };
</script>

<span class="flex shrink-0 items-center gap-1.5 text-sm text-soft">
  {#if data.mistakes > 0}
    <span class="flex items-center gap-1 text-rowan">
      <TriangleAlert size={15} aria-hidden="true" />{data.mistakes} <span class="sr-only">mistakes</span>
    </span>
  {/if}
  {#if data.toFill}
    <span class="flex items-center gap-1 text-ochre">
      <CircleDashed size={15} aria-hidden="true" />{data.toFill} to configure
    </span>
  {/if}
  {#if data.warnings}
    <span class="flex items-center gap-1 text-ochre" title={plural(data.warnings, 'warning', 'warnings')}>
      <CircleHelp size={15} aria-hidden="true" />{data.warnings} <span class="sr-only">warnings</span>
    </span>
  {/if}
  {#if data.held}
    <span class="flex items-center gap-1 rounded-full bg-ochre-wash px-2 text-ochre">
      <Pause size={13} aria-hidden="true" />stubbed
    </span>
  {/if}
  {#if data.change}
    <State state={CHANGES[data.change]} label={data.change} />
  {:else if data.state}
    <State state={data.state} label={data.took ? `${data.state}, ${data.took}` : data.state} />
  {:else}
    {data.card.off ? 'disabled' : data.card.kind}
  {/if}
</span>

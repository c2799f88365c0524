<script lang="ts">
import type { RecordOverview } from '@pindro/contract/light';
import { humanSize } from '@pindro/core/browser';

/** How much of the record of runs there is, and what is next to go. */
const { of, trouble }: { of: RecordOverview; trouble: string | null } = $props();

const day = (moment: string) => new Date(moment).toLocaleDateString(undefined, { dateStyle: 'medium' });
</script>

{#if trouble}
  <p class="mt-1 text-sm text-rowan" role="alert">{trouble}. New runs are rejected until there is space.</p>
{:else}
  <p class="mt-1 text-sm text-soft">
    {humanSize(of.bytes)} of {humanSize(of.limit)}, stored for {of.days} days{of.next
      ? `; the next one expires on ${day(of.next.at)}`
      : ''}
  </p>
{/if}

<script lang="ts">
import type { RunDetail } from '@pindro/contract/light';
import { plural } from '../state/format.js';
import FindingCard from '../parts/finding/FindingCard.svelte';

interface Props {
  findings: RunDetail['findings'];
  onSelect: (span: string) => void;
}
/** The findings of a run: the first in full, the others by their titles. */
let { findings, onSelect }: Props = $props();
const [first, others] = $derived([findings[0], findings.slice(1)]);
const spanOf = (finding: RunDetail['findings'][number]) => finding.span ?? '';
</script>

{#if first}<FindingCard finding={first} />{/if}
{#if others.length > 0}
  <p class="hint">{plural(others.length, 'more finding')}:</p>
  {#each others as finding (spanOf(finding) + finding.code)}
    <details ontoggle={(event) => event.currentTarget.open && finding.span && onSelect(finding.span)}>
      <summary class="cursor-pointer wrap-anywhere {finding.severity === 'failure' ? 'text-rowan' : 'text-ochre'}"
        >{finding.title}{finding.times > 1 ? ` (${finding.times} times)` : ''}</summary
      >
      <div class="mt-2"><FindingCard {finding} /></div>
    </details>
  {/each}
{/if}

<script lang="ts">
import { type Finding, placeWords } from '@pindro/core/browser';
import Lightbulb from '@lucide/svelte/icons/lightbulb';
import Quote from '@lucide/svelte/icons/quote';
import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
import FixCard from './FixCard.svelte';
import { linkTo } from './place-link.js';

interface Props {
  finding: Finding;
  /** Whether the change that it proposes may be made here. */
  cures?: boolean;
  /** Whether a link leads to where it stands among all runs. */
  problems?: boolean;
}
/** A finding of a run: what failed, why, quotes of the other side, and the fix. */
let { finding, cures = true, problems = true }: Props = $props();

const failed = $derived(finding.severity === 'failure');
const place = $derived(finding.place && linkTo(finding.place));
const isProblem = $derived(problems && finding.severity !== 'warning' && finding.fingerprint !== '');
</script>

<section
  class="rounded-lg border p-4 {failed ? 'border-rowan/40 bg-rowan-wash' : 'border-ochre/40 bg-ochre-wash'}"
  aria-label={finding.title}
>
  <h2 class="flex items-start gap-2 {failed ? 'text-rowan' : 'text-ochre'}">
    <TriangleAlert size={20} class="mt-0.5 shrink-0" aria-hidden="true" />
    <span class="wrap-anywhere">
      {finding.title}{#if finding.times > 1}{' '}<span class="font-normal">({finding.times} times)</span>{/if}
    </span>
  </h2>
  {#if finding.why !== finding.title}<p class="mt-1 pl-7 wrap-anywhere">{finding.why}</p>{/if}
  {#each finding.quotes as words, index (index)}
    <p class="mt-1 flex items-start gap-2 text-soft">
      <Quote size={16} class="mt-1 ml-0.5 shrink-0" aria-hidden="true" />
      <q class="wrap-anywhere">{words}</q>
    </p>
  {/each}
  {#each finding.follows as one (one.span)}
    <p class="mt-1 pl-7 text-soft">Then: {one.title}</p>
  {/each}
  <p class="mt-2 flex items-start gap-2">
    <Lightbulb size={18} class="mt-0.5 shrink-0" aria-hidden="true" />
    <span>
      {finding.fix}{#if place && finding.place}{' '}Where:
        <a class="link" href={place.to}>{placeWords(finding.place)}</a>.{/if}
    </span>
  </p>
  {#if cures && finding.cure}<FixCard {finding} cure={finding.cure} />{/if}
  {#if isProblem}
    <p class="mt-2 pl-7"><a class="link text-sm" href="/problems/{finding.fingerprint}">Affected runs</a></p>
  {/if}
</section>

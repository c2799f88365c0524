<script lang="ts">
import CircleCheck from '@lucide/svelte/icons/circle-check';
import CircleHelp from '@lucide/svelte/icons/circle-question-mark';
import CircleX from '@lucide/svelte/icons/circle-x';
import Hourglass from '@lucide/svelte/icons/hourglass';
import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
import type { Receipt } from '@pindro/core/browser';
import { approvalWords, STATE_WORDS } from '@pindro/core/browser';
import { plural, words } from '../../state/format.js';

/** What an answer rests on, by the calls that were made and not by what is said. */
let { receipt }: { receipt: Receipt } = $props();
const LOOKS = {
  done: { icon: CircleCheck, look: 'text-spruce' },
  failed: { icon: CircleX, look: 'text-rowan' },
  refused: { icon: CircleX, look: 'text-rowan' },
  unknown: { icon: CircleHelp, look: 'text-ochre' },
  waiting: { icon: Hourglass, look: 'text-ochre' },
};
const lines = $derived([...receipt.open, ...receipt.done]);
</script>

<div class="receipt" class:receipt-odd={receipt.contradicts !== null} role="group" aria-label="Receipt">
  {#if receipt.contradicts}
    <p class="mb-1 flex items-start gap-2 font-semibold text-rowan">
      <TriangleAlert size={17} class="mt-0.5 shrink-0" aria-hidden="true" />
      {receipt.contradicts}
    </p>
  {/if}
  <ul>
    {#each lines as line, index (index)}
      {@const Look = LOOKS[line.state]}
      <li class="flex min-w-0 items-start gap-2">
        <Look.icon size={15} class="mt-1 shrink-0 {Look.look}" aria-hidden="true" />
        <span class="min-w-0 wrap-anywhere">
          <span class="font-medium">{words(line.tool)}</span>
          <span class="text-soft">{line.state === 'done' ? '' : `${STATE_WORDS[line.state]}: `}{line.says}</span>
          {#if line.approval}<span class="block text-sm text-soft">{approvalWords(line.approval)}</span>{/if}
          {#if line.run}<a class="link" href="/runs/{line.run}">run</a>{/if}
        </span>
      </li>
    {:else}
      <li class="text-soft">No side effects.</li>
    {/each}
  </ul>
  {#if receipt.looked > 0}<p class="text-soft">{plural(receipt.looked, 'look-up')}</p>{/if}
</div>

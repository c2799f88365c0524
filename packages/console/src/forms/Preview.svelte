<script lang="ts">
import type { Evaluation } from '@pindro/contract/light';
import { brief } from '../state/format.js';

/** Preview of an expression with the values of the last run, if there is one. */
let { preview, ran }: { preview: Evaluation; ran: boolean } = $props();
</script>

<p class="mt-1 text-sm text-soft" data-preview>
  {#if preview.error}
    <span class="text-ochre">{preview.error.message}</span>
  {:else if preview.value === undefined && !ran}
    run a trial to preview the value
  {:else if preview.value === undefined}
    <span class="text-ochre">{preview.missing[0] ?? 'nothing'}</span>
  {:else}
    value <span class="chip">{brief(preview.value, 160)}</span>
  {/if}
</p>

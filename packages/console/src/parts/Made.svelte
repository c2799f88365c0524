<script lang="ts">
import type { RunDetail } from '@pindro/contract/light';
import { madeThings } from '../state/made.js';

/** Whatever a run made, one click away. */
let { spans }: { spans: RunDetail['spans'] } = $props();
const things = $derived(madeThings(spans));
</script>

{#if things.length > 0}
  <p class="mt-3 border-t border-line pt-2">
    Made: {#each things as thing, index (index)}{index > 0 ? ', ' : ''}<a class="link" href={thing.to}
        >{thing.label}</a
      >{/each}
  </p>
{/if}

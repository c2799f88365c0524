<script lang="ts">
import type { RunDetail } from '@pindro/contract/light';
import { madeThings, type Span } from '@pindro/core/browser';
import MadeThings from './MadeThings.svelte';

/** Whatever a run made. */
let { spans }: { spans: RunDetail['spans'] } = $props();
const things = $derived(madeThings(spans as Span[]));
</script>

{#if things.length > 0}
  <p class="mt-3 border-t border-line pt-2">Created: <MadeThings {things} /></p>
{/if}

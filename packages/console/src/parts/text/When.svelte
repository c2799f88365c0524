<script lang="ts">
import When from './When.svelte';
import { exact, moment } from '../../state/format.js';
import { now } from '../../state/now.svelte.js';

/** A relative time with the exact one on hover; it updates. */
let { at }: { at: string | null } = $props();
</script>

{#if at === null}never{:else}<time datetime={at} title={exact(at)}
    >{moment(at, Math.max(now.value, Date.now()))}</time
  >{/if}

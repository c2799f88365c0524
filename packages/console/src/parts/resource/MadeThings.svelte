<script lang="ts">
import type { MadeThing } from '@pindro/core/browser';

/** Things that were made, one click away each, where they can be seen here. */
let { things }: { things: readonly MadeThing[] } = $props();
const linkTo = ({ place }: MadeThing) =>
  place === null
    ? null
    : 'server' in place
      ? `/servers/${place.server}`
      : `/tables/${place.table}${place.row === undefined ? '' : `?row=${place.row}`}`;
</script>

{#each things as thing, index (index)}
  {@const to = linkTo(thing)}{index > 0 ? ', ' : ''}{#if to}<a class="link" href={to}>{thing.label}</a
    >{:else}{thing.label}{/if}
{/each}

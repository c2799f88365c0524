<script lang="ts">
import Pencil from '@lucide/svelte/icons/pencil';
import { thingType, type ThingType } from '../../state/things.js';
import ThingName from '../resource/ThingName.svelte';

interface Props {
  sort: ThingType;
  name: string;
  title?: string;
  href?: string;
  onOpen?: () => void;
}
/** The name of a thing in a list: it opens the thing, and is renamed in place. */
let { sort, name, title = name, href, onOpen }: Props = $props();
const thing = $derived(thingType(sort));
let editing = $state(false);
</script>

{#if editing}
  <ThingName {sort} {name} {title} begun onRenamed={() => {}} onEnd={() => (editing = false)} />
{:else}
  <span class="name-cell">
    {#if href ?? thing.page}
      <a class="link" href={href ?? thing.page!(name)}>{title}</a>
    {:else}
      <button type="button" class="link text-left" onclick={onOpen}>{title}</button>
    {/if}
    {#if thing.rename}
      <button
        type="button"
        class="field-tool name-cell-tool"
        data-rename
        aria-label="Rename {title}{title === name ? '' : ` (${name})`}"
        title="Rename (F2)"
        onclick={() => (editing = true)}><Pencil size={13} aria-hidden="true" /></button
      >
    {/if}
  </span>
{/if}

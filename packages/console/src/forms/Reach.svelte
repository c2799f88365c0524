<script lang="ts">
import { brief } from '../state/format.js';
import type { TextEditing } from './text-field.svelte.js';

/** The values in reach of a field, with what they held last; arrow keys and Enter write one. */
let { id, label, editing }: { id: string; label: string; editing: TextEditing } = $props();
let list = $state<HTMLElement>();
$effect(() => {
  list?.children[editing.at]?.scrollIntoView({ block: 'nearest' });
});
</script>

<ul
  id="{id}-reach"
  bind:this={list}
  role="listbox"
  aria-label="Values for {label}"
  class="reach"
  class:hidden={!editing.isOpen}
>
  {#each editing.reach as one, index (one.path)}
    <!-- svelte-ignore a11y_click_events_have_key_events (the field has the keys) -->
    <li
      id="{id}-reach-{index}"
      role="option"
      aria-selected={index === editing.at}
      class="reach-one"
      onmousedown={(event) => {
        event.preventDefault();
        editing.insert(one);
      }}
    >
      <span class="font-mono text-[0.82rem] wrap-anywhere">{one.path}</span>
      <span class="max-w-[50%] shrink-0 truncate text-sm text-soft">
        {one.value === undefined ? one.about : brief(one.value, 32)}
      </span>
    </li>
  {/each}
</ul>

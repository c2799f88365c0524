<script lang="ts">
import { Dialog } from 'bits-ui';
import { Finder } from '../../state/finder.svelte.js';

/** Search over everything: recent places first, then matches while typing. */
let { open = $bindable(), onKeys }: { open: boolean; onKeys: () => void } = $props();
const uid = $props.id();
// svelte-ignore state_referenced_locally
const finder = new Finder(onKeys);

function take() {
  const { current } = finder;
  if (!current) return;
  open = false;
  current.take();
}
function pressed(event: KeyboardEvent) {
  if (event.key === 'ArrowDown') finder.move(1);
  else if (event.key === 'ArrowUp') finder.move(-1);
  else if (event.key === 'Enter') take();
  else return;
  event.preventDefault();
}
</script>

<Dialog.Root bind:open>
  <Dialog.Portal>
    <Dialog.Overlay class="window-behind" />
    <Dialog.Content class="search-window" aria-label="Search everything">
      <Dialog.Title class="sr-only">Search everything</Dialog.Title>
      <!-- svelte-ignore a11y_autofocus -->
      <input
        class="search-field"
        placeholder="A flow, step, tool, table, run ID or command"
        aria-label="Search everything"
        bind:value={finder.words}
        onkeydown={pressed}
        autofocus
        autocomplete="off"
        spellcheck="false"
        role="combobox"
        aria-expanded="true"
        aria-controls="{uid}-list"
        aria-activedescendant={finder.current ? `${uid}-${finder.at}` : undefined}
      />
      <ul id="{uid}-list" role="listbox" aria-label="What was found" class="search-list">
        {#each finder.shown as one, index (one.key)}
          {@const Icon = one.icon}
          <!-- svelte-ignore a11y_click_events_have_key_events (the field has the keys) -->
          <li
            id="{uid}-{index}"
            role="option"
            aria-selected={index === finder.at}
            class="search-hit"
            onclick={() => {
              finder.at = index;
              take();
            }}
            onmousemove={() => (finder.at = index)}
          >
            <Icon size={17} class="mt-0.5 shrink-0 text-soft" aria-hidden="true" />
            <span class="min-w-0 grow">
              <span class="font-medium">{one.title}</span>
              {#if one.about}<span class="block truncate text-sm text-soft">{one.about}</span>{/if}
            </span>
            <span class="shrink-0 text-sm text-soft">{one.sort}</span>
          </li>
        {/each}
      </ul>
      {#if finder.shown.length === 0 && !finder.busy}
        <p class="px-4 py-3 text-soft" role="status">No results. Try fewer or other words.</p>
      {/if}
      {#if finder.problem}<p class="px-4 py-3 text-rowan" role="alert">{finder.problem.detail}</p>{/if}
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>

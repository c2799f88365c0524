<script lang="ts">
import type { KindSummary } from '@pindro/contract/light';
import { iconOf } from '../../canvas/icons.js';
import Window from '../../parts/text/Window.svelte';

interface Props {
  kinds: KindSummary[];
  open: boolean;
  onPick: (kind: string) => void;
}
/** The list of step kinds, searched by typing. */
let { kinds, open = $bindable(), onPick }: Props = $props();
let text = $state('');
let at = $state(0);
const uid = $props.id();
const looked = $derived(text.trim().toLowerCase());
/** What is called so comes before what is only about it. */
const rank = ({ name, title }: KindSummary) =>
  [name, title.toLowerCase()].some((one) => one.startsWith(looked))
    ? 0
    : `${name} ${title}`.toLowerCase().includes(looked)
      ? 1
      : 2;
const shown = $derived(
  kinds
    .filter((kind) => `${kind.name} ${kind.title} ${kind.about}`.toLowerCase().includes(looked))
    .sort((a, b) => (looked === '' ? 0 : rank(a) - rank(b))),
);
const current = $derived(shown[Math.min(at, shown.length - 1)]);

function pick(kind: string) {
  open = false;
  onPick(kind);
}
function pressed(event: KeyboardEvent) {
  if (event.key === 'ArrowDown') at = Math.min(at + 1, shown.length - 1);
  else if (event.key === 'ArrowUp') at = Math.max(at - 1, 0);
  else if (event.key === 'Enter' && current) pick(current.name);
  else return;
  event.preventDefault();
}
</script>

<Window bind:open title="Add a step">
  <label class="sr-only" for="{uid}-search">Search step kinds</label>
  <!-- svelte-ignore a11y_autofocus -->
  <input
    id="{uid}-search"
    class="field mb-3"
    placeholder="Step kind"
    bind:value={text}
    oninput={() => (at = 0)}
    onkeydown={pressed}
    autofocus
    autocomplete="off"
    role="combobox"
    aria-expanded="true"
    aria-controls="{uid}-list"
    aria-activedescendant={current ? `${uid}-${current.name}` : undefined}
  />
  <ul id="{uid}-list" role="listbox" aria-label="Step kinds" class="grid gap-1">
    {#each shown as kind, index (kind.name)}
      {@const Icon = iconOf(kind.name)}
      <!-- svelte-ignore a11y_click_events_have_key_events (the search field has the keys) -->
      <li
        id="{uid}-{kind.name}"
        role="option"
        aria-selected={kind === current}
        class="flex cursor-pointer items-start gap-3 rounded-md px-3 py-2 {kind === current
          ? 'bg-spruce-wash'
          : ''}"
        onclick={() => pick(kind.name)}
        onmousemove={() => (at = index)}
      >
        <Icon size={18} class="mt-0.5 shrink-0 text-spruce" aria-hidden="true" />
        <span
          ><span class="font-semibold">{kind.title}</span>
          <span class="block text-sm text-soft">{kind.about}</span></span
        >
      </li>
    {/each}
  </ul>
  {#if shown.length === 0}<p class="text-soft">No step kind matches “{text}”.</p>{/if}
</Window>

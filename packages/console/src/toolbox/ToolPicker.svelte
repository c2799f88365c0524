<script lang="ts">
import Bot from '@lucide/svelte/icons/bot';
import Plug from '@lucide/svelte/icons/plug';
import Radio from '@lucide/svelte/icons/radio';
import Workflow from '@lucide/svelte/icons/workflow';
import type { ToolChoice } from '@pindro/contract/light';
import { type Choice, type Choices, MOST_SHOWN } from './choices.svelte.js';

interface Props {
  choices: Choices;
  /** Offered sources; all by default. */
  only?: (choice: Choice) => boolean;
  /** Whether a tool is chosen. */
  isOn: (choice: Choice) => boolean;
  onToggle: (choice: Choice, on: boolean) => void;
  /** What cannot be chosen, with why. */
  cannot?: (choice: Choice) => string | null;
}
/** Finds tools of servers and endpoints, flows and agents by words, and chooses among them. */
let { choices, only = () => true, isOn, onToggle, cannot = () => null }: Props = $props();
const uid = $props.id();
const fitting = $derived(choices.fitting.filter(only));
const shown = $derived(fitting.slice(0, MOST_SHOWN));
const WORDS: Record<ToolChoice['from'], string> = { server: 'tool server', endpoint: 'endpoint', flow: 'flow' };
const iconOf = ({ from, note }: Choice) =>
  from === 'server' ? Plug : from === 'endpoint' ? Radio : note.includes('an agent') ? Bot : Workflow;
</script>

<label class="label" for="{uid}-find">Find tools</label>
<!-- svelte-ignore a11y_autofocus -->
<input
  id="{uid}-find"
  class="field mb-1"
  type="search"
  autofocus
  autocomplete="off"
  placeholder="words of a name, description or server"
  bind:value={choices.words}
/>
<p class="hint mb-2" role="status">
  {#if choices.resource.loading && choices.all.length === 0}Loading tools …
  {:else if choices.fitting.length > MOST_SHOWN}The first {MOST_SHOWN} of {choices.fitting.length}; add words to
    narrow the search.
  {:else}{choices.fitting.length} of {choices.all.length}{/if}
</p>
<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<ul class="tool-choices" aria-label="Available tools" tabindex="0">
  {#each shown as choice (choice.id)}
    {@const why = cannot(choice)}
    {@const Icon = iconOf(choice)}
    <li>
      <label class="flex items-start gap-3 px-3 py-2 {why ? 'opacity-60' : 'hover:bg-sunk'}">
        <input
          type="checkbox"
          class="tick mt-1"
          disabled={why !== null}
          checked={why !== null || isOn(choice)}
          onchange={(event) => onToggle(choice, event.currentTarget.checked)}
        />
        <span class="min-w-0">
          <span class="font-mono font-semibold wrap-anywhere">{choice.tool}</span>
          <span class="text-sm text-soft">
            <Icon size={13} class="mx-0.5 inline" aria-hidden="true" />{choice.from === 'flow'
              ? WORDS.flow
              : `${WORDS[choice.from]} ${choice.source}`}{choice.note ? `, ${choice.note}` : ''}{why
              ? `, ${why}`
              : ''}</span
          >
          <span class="block text-sm text-soft wrap-anywhere">{choice.description || choice.title}</span>
        </span>
      </label>
    </li>
  {:else}
    <li class="px-3 py-2 text-soft">
      {choices.words ? 'No matching tools.' : 'No tools available yet.'}
    </li>
  {/each}
</ul>

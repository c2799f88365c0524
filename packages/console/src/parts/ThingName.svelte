<script lang="ts">
import { tick } from 'svelte';
import { problemOf } from '../state/api.js';
import { notices } from '../state/notices.svelte.js';
import { router } from '../state/router.svelte.js';
import { sortOf, type ThingSort } from '../state/things.js';

interface Props {
  sort: ThingSort;
  /** Its name, or its id where its name is only words. */
  name: string;
  title: string;
  /** What is renamed, where that is not the name itself. */
  compact?: boolean;
  /** Whether the new name is the address of the page. */
  onRenamed?: (to: string) => void;
}
/** The heading of a page, which is renamed in place: a click or F2, then Enter; Escape leaves it. */
let { sort, name, title, compact = false, onRenamed }: Props = $props();
let editing = $state(false);
let wanted = $state('');
let field = $state<HTMLInputElement>();
const { rename, page, word } = $derived(sortOf(sort));

async function begin() {
  if (!rename) return;
  wanted = name;
  editing = true;
  await tick();
  field?.select();
}
async function end(keep: boolean) {
  if (!editing) return;
  editing = false;
  const to = wanted.trim();
  if (!keep || to === '' || to === name) return;
  try {
    const answer = (await rename!(name, to)) as { changed?: string[] };
    const followed = answer.changed?.length ? ` ${answer.changed.join(', ')} followed.` : '';
    notices.tell(`${word.charAt(0).toUpperCase()}${word.slice(1)} ${name} is called ${to} now.${followed}`);
    if (onRenamed) onRenamed(to);
    else if (page) router.go(page(to) + location.search);
  } catch (error) {
    const problem = problemOf(error);
    notices.tell(problem.title, { problem });
  }
}
</script>

{#if editing}
  <input
    bind:this={field}
    class="field thing-name-field"
    aria-label="New name of the {word}"
    bind:value={wanted}
    onblur={() => void end(true)}
    onkeydown={(event) => {
      if (event.key === 'Enter') void end(true);
      if (event.key === 'Escape') void end(false);
    }}
    spellcheck="false"
  />
{:else}
  <h1 class="thing-name" class:thing-name-compact={compact}>
    {#if rename}
      <button
        type="button"
        class="thing-name-button"
        title="{title}: rename it (F2)"
        onclick={() => void begin()}
        onkeydown={(event) => event.key === 'F2' && void begin()}
        >{title}<span class="sr-only">: rename it</span></button
      >
    {:else}
      {title}
    {/if}
  </h1>
{/if}

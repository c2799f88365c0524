<script lang="ts">
import { capital } from '@pindro/contract/light';
import { tick } from 'svelte';
import { problemOf } from '../../state/api.js';
import { notices } from '../../state/notices.svelte.js';
import { router } from '../../state/router.svelte.js';
import { thingType, type ThingType } from '../../state/things.js';

interface Props {
  sort: ThingType;
  /** Its name, or its id where its name is only words. */
  name: string;
  title: string;
  /** Smaller, for a bar. */
  compact?: boolean;
  /** Whether it stands open for a new name at once, as in a list. */
  begun?: boolean;
  /** What follows a new name, instead of going to its page. */
  onRenamed?: (to: string) => void;
  onEnd?: () => void;
}
/** The heading of a page, which is renamed in place: a click or F2, then Enter; Escape leaves it. */
let { sort, name, title, compact = false, begun = false, onRenamed, onEnd = () => {} }: Props = $props();
let editing = $state(false);
let wanted = $state('');
let field = $state<HTMLInputElement>();
const { rename, page, word } = $derived(thingType(sort));
// svelte-ignore state_referenced_locally
if (begun) void begin();

async function begin() {
  if (!rename) return;
  wanted = sort === 'key' ? title : name;
  editing = true;
  await tick();
  field?.select();
}
async function end(keep: boolean) {
  if (!editing) return;
  editing = false;
  onEnd();
  const to = wanted.trim();
  if (!keep || to === '' || to === (sort === 'key' ? title : name)) return;
  try {
    const answer = (await rename!(name, to)) as { changed?: string[] };
    const followed = answer.changed?.length ? ` ${answer.changed.join(', ')} followed.` : '';
    notices.tell(`${capital(word)} ${name} is now named ${to}.${followed}`);
    if (onRenamed) onRenamed(to);
    else if (page) router.go(page(to) + location.search);
  } catch (error) {
    const problem = problemOf(error);
    notices.tell(problem.detail, { problem });
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
        title="{title}: rename (F2)"
        onclick={() => void begin()}
        onkeydown={(event) => event.key === 'F2' && void begin()}
        >{title}<span class="sr-only">: rename</span></button
      >
    {:else}
      {title}
    {/if}
  </h1>
{/if}

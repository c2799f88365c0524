<script lang="ts">
import Trash from '@lucide/svelte/icons/trash-2';
import { readLink } from '@pindro/core/browser';
import type { Editor } from '../session/session.svelte.js';

/** What a step comes after, for whoever does not draw with a mouse. */
let { editor, step }: { editor: Editor; step: string } = $props();
const uid = $props.id();
const after = $derived(editor.steps[step]?.after ?? []);
const choices = $derived(
  editor.cards
    .filter((card) => card.name !== step)
    .flatMap((card) => [card.name, ...card.branches.map((branch) => `${card.name}.${branch}`)])
    .filter((link) => !after.includes(link)),
);
let fresh = $state('');
const say = (link: string) => {
  const { from, branch } = readLink(link);
  return branch === null ? from : `${from}, when ${branch}`;
};
</script>

<fieldset class="mb-4">
  <legend class="label">Comes after</legend>
  <ul class="space-y-1">
    {#each after as link (link)}
      <li class="flex items-center justify-between gap-2 rounded bg-sunk px-2 py-1">
        <span>{say(link)}</span><button
          type="button"
          class="rounded p-0.5 text-soft hover:text-rowan"
          aria-label="No longer after {say(link)}"
          onclick={() => editor.unlink(readLink(link), step)}><Trash size={15} aria-hidden="true" /></button
        >
      </li>
    {:else}
      <li class="text-sm text-soft">none: it runs first</li>
    {/each}
  </ul>
  <div class="mt-2 flex gap-2">
    <label class="sr-only" for="{uid}-after">Add a predecessor</label>
    <select id="{uid}-after" class="field py-1" bind:value={fresh}
      ><option value="">another step …</option>{#each choices as link (link)}<option value={link}
          >{say(link)}</option
        >{/each}</select
    >
    <button
      type="button"
      class="button py-1"
      disabled={fresh === ''}
      onclick={() => {
        editor.link(readLink(fresh), step);
        fresh = '';
      }}>Add</button
    >
  </div>
  {#if after.length > 1}
    <label class="mt-2 flex items-center gap-2 text-sm"
      ><input
        type="checkbox"
        class="accent-[var(--spruce)]"
        checked={editor.steps[step]?.join === 'any'}
        onchange={(event) => editor.change(step, { join: event.currentTarget.checked ? 'any' : undefined })}
      />any of them is enough</label
    >
  {/if}
</fieldset>

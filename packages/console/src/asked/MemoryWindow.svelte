<script lang="ts">
import Download from '@lucide/svelte/icons/download';
import Trash from '@lucide/svelte/icons/trash-2';
import Problem from '../parts/text/Problem.svelte';
import Window from '../parts/text/Window.svelte';
import Value from '../values/Value.svelte';
import Said from '../values/ReportedText.svelte';
import { api } from '../state/api.js';
import { words } from '../state/format.js';
import { Action, Resource } from '../state/resource.svelte.js';

interface Props {
  id: string;
  title: string;
  onClose: () => void;
}
/** One memory: what was said, what was noted, which can be corrected, and what came before. */
let { id, title, onClose }: Props = $props();
const uid = $props.id();
const memory = new Resource(() => api.getMemory({ id }), ['memory']);
let about = $state('');
let text = $state('');
let sure = $state(false);
const correct = new Action(async (what: string, now: string | null) => {
  memory.value = await api.correctNote({ id, body: { about: what, text: now } });
  about = '';
  text = '';
});
const forget = new Action(async () => {
  await api.deleteMemory({ id });
  onClose();
});
const WHO: Record<string, string> = { user: 'User', assistant: 'Agent', tool: 'Result' };
const file = $derived(
  URL.createObjectURL(new Blob([JSON.stringify(memory.value ?? {}, null, 2)], { type: 'application/json' })),
);
</script>

<Window bind:open={() => true, () => onClose()} title="Memory of {title}" wide>
  {#if memory.problem}<Problem problem={memory.problem} />{/if}
  {#if memory.value}
    {@const { notes, turns, abstract, kept } = memory.value}
    <div class="grid gap-6 md:grid-cols-2">
      <section class="min-w-0">
        <h3 class="mb-1">Notes</h3>
        {#if correct.problem}<Problem problem={correct.problem} />{/if}
        <ul class="mb-3 divide-y divide-line rounded-md border border-line">
          {#each notes as note (note.about)}
            <li class="flex items-start gap-2 px-3 py-2">
              <button
                type="button"
                class="min-w-0 grow text-left"
                onclick={() => {
                  about = note.about;
                  text = note.text;
                }}
              >
                <span class="sr-only">Correct</span>
                <span class="block text-sm text-soft">{note.about}</span>
                <span class="wrap-anywhere">{note.text}</span>
              </button>
              <button
                type="button"
                class="field-tool"
                aria-label="Delete {note.about}"
                onclick={() => void correct.run(note.about, null)}><Trash size={15} aria-hidden="true" /></button
              >
            </li>
          {:else}
            <li class="px-3 py-2 text-soft">No notes.</li>
          {/each}
        </ul>
        <form
          class="space-y-2"
          onsubmit={(event) => {
            event.preventDefault();
            void correct.run(about, text);
          }}
        >
          <label class="label" for="{uid}-about">Topic</label>
          <input id="{uid}-about" class="field" maxlength="100" bind:value={about} required />
          <label class="label" for="{uid}-text">Fact</label>
          <textarea id="{uid}-text" class="field" rows="2" maxlength="2000" bind:value={text} required></textarea>
          <button class="button button-small" disabled={correct.busy || about === '' || text === ''}>
            {notes.some((note) => note.about === about) ? 'Correct note' : 'Add note'}
          </button>
        </form>
        {#if abstract}
          <h3 class="mt-5 mb-1">Summary</h3>
          <p class="rounded-md bg-sunk p-3 whitespace-pre-wrap">{abstract}</p>
        {/if}
        {#if Object.keys(kept).length > 0}
          <h3 class="mt-5 mb-1">Stored values</h3>
          <dl class="rounded-md bg-sunk p-3">
            {#each Object.entries(kept) as [name, value] (name)}
              <dt class="text-sm text-soft">{words(name)}</dt>
              <dd class="mb-2"><Value {value} /></dd>
            {/each}
          </dl>
        {/if}
      </section>
      <section class="min-w-0">
        <h3 class="mb-1">Turns</h3>
        <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
        <ol class="max-h-[50vh] space-y-2 overflow-auto" tabindex="0" aria-label="Turns">
          {#each turns as turn, index (index)}
            <li class="rounded-md bg-sunk p-3">
              <span class="block text-sm text-soft"
                >{turn.tool ? `Result of ${words(turn.tool)}` : (WHO[turn.role] ?? turn.role)}</span
              >
              <Said text={turn.text} />
            </li>
          {:else}
            <li class="text-soft">None.</li>
          {/each}
        </ol>
      </section>
    </div>
    <div class="mt-5 flex flex-wrap gap-2">
      <a class="button" href={file} download="memory.json"><Download size={15} aria-hidden="true" /> Export</a>
      <button
        type="button"
        class="button"
        disabled={forget.busy}
        onclick={() => (sure ? void forget.run() : (sure = true))}
      >
        <Trash size={15} aria-hidden="true" />
        {sure ? 'Delete permanently; this cannot be undone' : 'Delete memory'}
      </button>
    </div>
    {#if forget.problem}<div class="mt-3"><Problem problem={forget.problem} /></div>{/if}
  {/if}
</Window>

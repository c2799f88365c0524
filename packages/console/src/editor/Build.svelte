<script lang="ts">
import Plus from '@lucide/svelte/icons/plus';
import Redo from '@lucide/svelte/icons/redo-2';
import Search from '@lucide/svelte/icons/search';
import Undo from '@lucide/svelte/icons/undo-2';
import type { FlowDetail, KindSummary } from '@pindro/contract';
import { SvelteFlowProvider } from '@xyflow/svelte';
import { untrack } from 'svelte';
import Empty from '../parts/Empty.svelte';
import Problem from '../parts/Problem.svelte';
import { plural, words } from '../state/format.js';
import { live } from '../state/live.svelte.js';
import { router } from '../state/router.svelte.js';
import CalledFlow from './CalledFlow.svelte';
import EditCanvas from './EditCanvas.svelte';
import FlowPanel from './FlowPanel.svelte';
import StepPanel from './StepPanel.svelte';
import StepPicker from './StepPicker.svelte';
import { Editor } from './session.svelte.js';
import TryPanel from './TryPanel.svelte';
import { Trial } from './trial.svelte.js';

/** The canvas with what stands beside it: the selected step, the flow itself, or trying it. */
let { flow, kinds }: { flow: FlowDetail; kinds: KindSummary[] } = $props();
// svelte-ignore state_referenced_locally
const editor = new Editor(flow.name, flow);
const trial = new Trial(editor);
const uid = $props.id();
type Side = 'step' | 'flow' | 'try';
let side = $state<Side>('flow');
let picking = $state(false);
let target = $state.raw<{ after: { from: string; branch: string | null }; before: string } | undefined>();
let search = $state('');
/** A called flow that is looked into without leaving this one. */
let peeking = $state<string | null>(null);
const found = $derived.by(() => {
  const word = search.trim().toLowerCase();
  if (word === '') return null;
  return (
    Object.entries(editor.steps).find(([name, step]) =>
      JSON.stringify([name, step]).toLowerCase().includes(word),
    )?.[0] ?? null
  );
});

$effect(() =>
  live.on(
    (what, name) => void ((what === 'flow' && name === flow.name) || what === 'everything' ? editor.reload() : null),
  ),
);
$effect(() => {
  // Choosing a step shows it; going to another tab afterwards is the reader's own wish.
  if (editor.selected.length > 0) side = untrack(() => (side === 'try' && trial.busy ? 'try' : 'step'));
});
// A link from a finding points at one step.
$effect(() => {
  const wanted = router.query.get('step');
  if (wanted && wanted in editor.steps) editor.selected = [wanted];
});

function add(link?: typeof target) {
  target = link;
  picking = true;
}
function pick(kind: string) {
  const after = target?.after ?? (editor.step ? { from: editor.step, branch: null } : undefined);
  editor.add(kind, { after, before: target?.before });
  side = 'step';
}
const SAVED = { saved: 'Saved', unsaved: 'Not saved yet', saving: 'Saving …', refused: 'Not saved' };
const tabs = $derived([
  { value: 'step' as Side, label: editor.selected.length > 1 ? plural(editor.selected.length, 'step') : 'Step' },
  { value: 'flow' as Side, label: 'Flow' },
  { value: 'try' as Side, label: 'Try' },
]);
</script>

<div class="mb-3 flex flex-wrap items-center gap-2" role="toolbar" aria-label="Canvas">
  <button type="button" class="button button-main" onclick={() => add()}><Plus size={16} aria-hidden="true" /> Add a step</button>
  <button type="button" class="button" onclick={editor.undo} disabled={!editor.canUndo} aria-label="Undo" title="Undo (Ctrl+Z)"><Undo size={16} aria-hidden="true" /></button>
  <button type="button" class="button" onclick={editor.redo} disabled={!editor.canRedo} aria-label="Redo" title="Redo (Ctrl+Shift+Z)"><Redo size={16} aria-hidden="true" /></button>
  <label class="relative"><span class="sr-only">Find a step</span><Search size={15} class="absolute top-2.5 left-2.5 text-soft" aria-hidden="true" /><input class="field w-40 py-1.5 pl-8" placeholder="Find a step" bind:value={search} onkeydown={(event) => { if (event.key === 'Enter' && found) editor.selected = [found]; }} /></label>
  <span role="status" class="ml-auto text-sm {editor.state === 'refused' ? 'text-rowan' : 'text-soft'}">{SAVED[editor.state]}{editor.drawing.mistakes.length > 0 ? `, ${plural(editor.drawing.mistakes.length, 'mistake')} left` : ''}</span>
</div>
{#if editor.problem}<div class="mb-3"><Problem problem={editor.problem} />{#if editor.problem.code === 'draft_newer'}<button type="button" class="button mt-2" onclick={() => void editor.reload(true)}>Load it again</button>{/if}</div>{/if}
{#if editor.place.length > 0}
  <nav aria-label="Where you are in the flow" class="mb-2 flex items-center gap-1.5 text-sm"><button type="button" class="link" onclick={() => editor.leave(0)}>{flow.title}</button>{#each editor.place as part, index (index)}{#if index % 3 === 1}<span class="text-soft">›</span><span class="font-medium">inside {words(part)}</span>{/if}{/each}</nav>
{/if}
<h2 class="sr-only">Steps</h2>
<div class="grid gap-4 xl:grid-cols-[1fr_24rem]">
  <section class="relative h-[72vh] min-h-96 min-w-0 rounded-lg border border-line bg-sunk" aria-label="Canvas: arrow keys go from step to step, A adds one, Delete takes out, Ctrl C and Ctrl V copy and paste, O switches off, L arranges">
    {#key editor.place.join('/')}
      <SvelteFlowProvider><EditCanvas {editor} states={editor.place.length === 0 ? trial.states : new Map()} held={trial.held} {found} onAdd={add} onOpenFlow={(name) => (peeking = name)} /></SvelteFlowProvider>
    {/key}
    {#if Object.keys(editor.steps).length === 0}
      <div class="absolute inset-x-8 top-16"><Empty title={editor.place.length > 0 ? 'Nothing is done with each item yet' : 'An empty trail'}><p class="mb-3">Add the first step, or paste steps or a whole flow document from anywhere.</p><button type="button" class="button button-main" onclick={() => add()}>Add the first step</button></Empty></div>
    {/if}
  </section>
  <aside class="max-h-[80vh] min-w-0 self-start overflow-auto rounded-lg border border-line bg-card" aria-label="What is selected">
    <div class="sticky top-0 z-10 flex gap-1 border-b border-line bg-card px-3 pt-2" role="tablist" aria-label="Beside the canvas">
      {#each tabs as tab (tab.value)}
        <button type="button" role="tab" id="{uid}-{tab.value}" aria-selected={side === tab.value} aria-controls="{uid}-panel" class="-mb-px border-b-2 px-3 py-1.5 {side === tab.value ? 'border-spruce font-semibold' : 'border-transparent text-soft'}" onclick={() => (side = tab.value)}>{tab.label}</button>
      {/each}
    </div>
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <div id="{uid}-panel" role="tabpanel" aria-labelledby="{uid}-{side}" tabindex="0" class="p-4">
      {#if side === 'step'}
        {#if editor.step}<StepPanel {editor} {trial} step={editor.step} {kinds} />
        {:else if editor.selected.length > 1}<p class="mb-3">{editor.selected.map(words).join(', ')}</p><div class="flex flex-wrap gap-2"><button type="button" class="button" onclick={() => editor.duplicate()}>Duplicate</button><button type="button" class="button" onclick={() => editor.toggle()}>Switch on or off</button><button type="button" class="button" onclick={() => editor.remove()}>Remove</button></div>
        {:else}<p class="text-soft">Select a step to see and change what it does.</p>{/if}
      {:else if side === 'flow'}<FlowPanel {editor} {trial} />
      {:else}<TryPanel {editor} {trial} {flow} />{/if}
    </div>
  </aside>
</div>
{#if peeking !== null}{#key peeking}<CalledFlow name={peeking} onClose={() => (peeking = null)} />{/key}{/if}
{#if picking}<StepPicker {kinds} bind:open={picking} onPick={pick} />{/if}

<script lang="ts">
import type { KindSummary } from '@pindro/contract/light';
import { SvelteFlowProvider } from '@xyflow/svelte';
import Empty from '../parts/list/Empty.svelte';
import { words } from '../state/format.js';
import { preferences } from '../state/preferences.svelte.js';
import { shortcuts } from '../state/shortcuts.svelte.js';
import CalledFlow from './canvas/CalledFlow.svelte';
import CanvasTools from './canvas/CanvasTools.svelte';
import Divider from './Divider.svelte';
import EditCanvas from './canvas/EditCanvas.svelte';
import { CANVAS_KEYS } from './flow/keys.js';
import SidePanel from './SidePanel.svelte';
import StepPicker from './step/StepPicker.svelte';
import TryStatus from './try/TryStatus.svelte';
import type { Workbench } from './session/workbench.svelte.js';

/** The canvas with its side panel: the selected step, the flow, or a trial. */
let { bench, kinds }: { bench: Workbench; kinds: KindSummary[] } = $props();
const { editor, trial } = $derived(bench);
const inside = $derived(editor.place.length > 0);
const isEmpty = $derived(Object.keys(editor.steps).length === 0);
const toggle = () => preferences.set({ panelHidden: !preferences.panelHidden });

$effect(() =>
  shortcuts.use('The canvas', [...CANVAS_KEYS, { key: ']', does: 'hide or show the panel', run: toggle }]),
);
// Choosing a step shows it; going to another tab afterwards is the reader's own wish.
let last = '';
$effect(() => {
  const chosen = editor.selected.join();
  if (chosen !== last && chosen !== '' && !(bench.side === 'try' && trial.busy)) bench.side = 'step';
  last = chosen;
});
</script>

<div class="bench" style="--panel: {preferences.panelHidden ? 0 : preferences.panelWidth}px">
  <section class="canvas" aria-label="Canvas">
    <h2 class="sr-only">Steps</h2>
    <CanvasTools {bench} />
    {#if inside}
      <nav aria-label="Path in the flow" class="canvas-place">
        <button type="button" class="link" onclick={() => editor.leave(0)}>{bench.flow.title}</button>
        {#each editor.place as part, index (index)}
          {#if index % 3 === 1}<span class="text-soft">›</span><span class="font-medium">inside {words(part)}</span
            >{/if}
        {/each}
      </nav>
    {/if}
    {#key editor.place.join('/')}
      <SvelteFlowProvider>
        <EditCanvas
          {editor}
          states={inside ? new Map() : trial.states}
          held={trial.held}
          found={bench.found}
          onAdd={bench.add}
          onChoose={() => (bench.side = 'step')}
          onOpenFlow={(name) => (bench.peeking = name)}
        />
      </SvelteFlowProvider>
    {/key}
    {#if isEmpty}
      <div class="canvas-empty">
        <Empty title={inside ? 'No steps for each item yet' : 'Empty flow'}>
          <p class="mb-3">Add the first step, or paste steps or a whole flow document.</p>
          <button type="button" class="button button-main" onclick={() => bench.add()}>Add the first step</button>
        </Empty>
      </div>
    {/if}
  </section>
  <Divider />
  <aside class="side" class:side-hidden={preferences.panelHidden} aria-label="Selection">
    <SidePanel {bench} {kinds} />
  </aside>
</div>
<TryStatus outcome={trial.outcome} waiting={trial.waiting} />
{#if bench.peeking !== null}
  {#key bench.peeking}<CalledFlow name={bench.peeking} onClose={() => (bench.peeking = null)} />{/key}
{/if}
{#if bench.picking}<StepPicker {kinds} bind:open={bench.picking} onPick={(kind) => bench.pick(kind)} />{/if}

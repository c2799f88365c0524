<script lang="ts">
import PanelRightClose from '@lucide/svelte/icons/panel-right-close';
import type { KindSummary } from '@pindro/contract/light';
import { plural } from '../state/format.js';
import { preferences } from '../state/preferences.svelte.js';
import FlowPanel from './flow/FlowPanel.svelte';
import SeveralPanel from './step/SeveralPanel.svelte';
import StepPanel from './step/StepPanel.svelte';
import TryPanel from './try/TryPanel.svelte';
import type { Side, Workbench } from './session/workbench.svelte.js';

/** The panel next to the canvas. */
let { bench, kinds }: { bench: Workbench; kinds: KindSummary[] } = $props();
const uid = $props.id();
const { editor, trial, flow } = $derived(bench);
const tabs = $derived<{ value: Side; label: string }[]>([
  { value: 'step', label: editor.selected.length > 1 ? plural(editor.selected.length, 'step') : 'Step' },
  { value: 'flow', label: 'Flow' },
  { value: 'try', label: 'Try' },
]);
</script>

<div class="side-tabs">
  <div class="flex gap-1" role="tablist" aria-label="Next to the canvas">
    {#each tabs as tab (tab.value)}
      <button
        type="button"
        role="tab"
        id="{uid}-{tab.value}"
        aria-selected={bench.side === tab.value}
        aria-controls="{uid}-panel"
        class="tab"
        onclick={() => (bench.side = tab.value)}>{tab.label}</button
      >
    {/each}
  </div>
  <button
    type="button"
    class="icon-button hidden lg:grid"
    aria-label="Hide the panel"
    title="Hide the panel (])"
    onclick={() => preferences.set({ panelHidden: true })}><PanelRightClose size={17} aria-hidden="true" /></button
  >
</div>
<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div id="{uid}-panel" role="tabpanel" aria-labelledby="{uid}-{bench.side}" tabindex="0" class="side-body">
  {#if bench.side === 'flow'}
    <FlowPanel {editor} {trial} />
  {:else if bench.side === 'try'}
    <TryPanel {editor} {trial} {flow} />
  {:else if editor.step}
    <StepPanel {editor} {trial} step={editor.step} {kinds} />
  {:else if editor.selected.length > 1}
    <SeveralPanel {editor} />
  {:else}
    <p class="text-soft">Select a step to edit it.</p>
  {/if}
</div>

<script lang="ts">
import type { FlowDetail, KindSummary } from '@pindro/contract/light';
import ExposeWindow from '../parts/resource/ExposeWindow.svelte';
import Problem from '../parts/text/Problem.svelte';
import Skeleton from '../parts/text/Skeleton.svelte';
import { actions } from '../state/actions.svelte.js';
import { preferences } from '../state/preferences.svelte.js';
import { router } from '../state/router.svelte.js';
import Build from './Build.svelte';
import ConflictWindow from './revisions/ConflictWindow.svelte';
import EditorBar from './EditorBar.svelte';
import UnsavedNotice from './session/UnsavedNotice.svelte';
import PublishWindow from './revisions/PublishWindow.svelte';
import Revisions from './revisions/Revisions.svelte';
import EntryPoints from './entries/EntryPoints.svelte';
import { Workbench } from './session/workbench.svelte.js';

/** One flow: drawn, written, opened to others, published. */
let { flow, kinds }: { flow: FlowDetail; kinds: KindSummary[] } = $props();
// svelte-ignore state_referenced_locally
const bench = new Workbench(flow);
let exposing = $state(false);
let publishing = $state(false);
const view = $derived(router.query.get('view') ?? '');
const { editor } = bench;

async function publish() {
  await editor.save();
  // Publishing reports missing settings as mistakes.
  editor.fresh = new Set();
  publishing = true;
}
async function expose() {
  await editor.save();
  editor.fresh = new Set();
  exposing = true;
}
$effect(() =>
  actions.use([
    { title: `Publish ${flow.title}`, run: () => void publish() },
    { title: `Expose ${flow.title} as a tool`, run: () => void expose() },
    { title: `Try ${flow.title}`, run: () => bench.show('try') },
    { title: 'Add a step', run: () => bench.add() },
  ]),
);
</script>

<svelte:head><title>{flow.title} · Pindro</title></svelte:head>
<EditorBar {flow} {bench} {view} onPublish={() => void publish()} onExpose={() => void expose()} />
{#if editor.found}<UnsavedNotice {editor} />{/if}
{#if editor.problem}<div class="px-4 py-2"><Problem problem={editor.problem} /></div>{/if}
{#if view === 'ways'}
  <div class="editor-page"><EntryPoints {flow} /></div>
{:else if view === 'revisions'}
  <div class="editor-page"><Revisions {flow} /></div>
{:else if view === 'document'}
  {#await import('../document/DocumentView.svelte')}
    <div class="editor-page"><Skeleton /></div>
  {:then { default: DocumentView }}
    <DocumentView {bench} {kinds} beside={preferences.documentBeside} />
  {/await}
{:else}
  <Build {bench} {kinds} />
{/if}
{#if exposing}<ExposeWindow {flow} bind:open={exposing} />{/if}
{#if publishing}
  <PublishWindow {flow} bind:open={publishing} onCompare={() => router.filter({ view: 'revisions' })} />
{/if}
{#if editor.conflict}<ConflictWindow {editor} />{/if}

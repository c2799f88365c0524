<script lang="ts">
import ArrowLeft from '@lucide/svelte/icons/arrow-left';
import MessageSquare from '@lucide/svelte/icons/message-square';
import Play from '@lucide/svelte/icons/play';
import Radio from '@lucide/svelte/icons/radio';
import Upload from '@lucide/svelte/icons/upload';
import type { FlowDetail } from '@pindro/contract/light';
import State from '../parts/text/State.svelte';
import ThingMenu from '../parts/resource/ThingMenu.svelte';
import ThingName from '../parts/resource/ThingName.svelte';
import ViewTabs from '../parts/list/ViewTabs.svelte';
import { router } from '../state/router.svelte.js';
import MistakesMenu from './flow/MistakesMenu.svelte';
import type { Workbench } from './session/workbench.svelte.js';

interface Props {
  flow: FlowDetail;
  bench: Workbench;
  view: string;
  onPublish: () => void;
  onExpose: () => void;
}
/** One slim bar: what the flow is, how it stands, and what is done with it. */
let { flow, bench, view, onPublish, onExpose }: Props = $props();
const VIEWS = [
  { value: '', label: 'Build' },
  { value: 'document', label: 'Document' },
  { value: 'ways', label: 'Entry points' },
  { value: 'revisions', label: 'Revisions' },
];
const SAVED = {
  saved: 'Saved',
  unsaved: 'Not saved yet',
  saving: 'Saving …',
  refused: 'Not saved',
  lost: 'Not saved: the service is unavailable',
};
const { editor, presence } = $derived(bench);

function attempt() {
  if (view !== '' && view !== 'document') router.filter({});
  bench.show('try');
}
</script>

<div class="editor-bar">
  <a href="/flows" class="icon-button" aria-label="Flows" title="All flows">
    <ArrowLeft size={17} aria-hidden="true" />
  </a>
  <ThingName sort="flow" name={flow.name} title={flow.title} compact />
  <ViewTabs views={VIEWS} label="Views of the flow" slim />
  <p class="editor-stands">
    {#if flow.revision === null}
      <State state="changed" label="not published" />
    {:else}
      <State state="live" label="revision {flow.revision} is live" />
      {#if flow.changed}<State state="changed" label="draft differs" />{/if}
    {/if}
    {#each flow.endpoints as endpoint (endpoint)}
      <a class="link" href="/endpoints/{endpoint}">on {endpoint}</a>
    {/each}
  </p>
  <div class="editor-doing">
    {#if presence.others.length > 0}
      <span class="editor-others" role="status">{presence.others.join(', ')} has this open</span>
    {:else if presence.elsewhere}
      <span class="editor-others" role="status">open in another window</span>
    {/if}
    <span
      role="status"
      class="editor-saved"
      class:text-rowan={editor.state === 'refused'}
      class:text-ochre={editor.state === 'lost'}>{SAVED[editor.state]}</span
    >
    <MistakesMenu {editor} onShow={() => bench.show(editor.selected.length > 0 ? 'step' : 'flow')} />
    {#if flow.agent}
      <a class="button button-small" href="/flows/{flow.name}/chat">
        <MessageSquare size={15} aria-hidden="true" /> Chat
      </a>
    {/if}
    <button type="button" class="button button-small" onclick={attempt}>
      <Play size={15} aria-hidden="true" /> Try
    </button>
    <button type="button" class="button button-small" onclick={onPublish}>
      <Upload size={15} aria-hidden="true" /> Publish
    </button>
    <button type="button" class="button button-main button-small" onclick={onExpose}>
      <Radio size={15} aria-hidden="true" /> Expose
    </button>
    <ThingMenu sort="flow" name={flow.name} onRemoved={() => router.go('/flows')} />
  </div>
</div>

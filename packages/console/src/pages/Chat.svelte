<script lang="ts">
import ArrowLeft from '@lucide/svelte/icons/arrow-left';
import { tick } from 'svelte';
import Composer from '../chat/Composer.svelte';
import { Conversation } from '../chat/conversation.svelte.js';
import ConversationList from '../chat/ConversationList.svelte';
import ExchangeView from '../chat/ExchangeView.svelte';
import Empty from '../parts/list/Empty.svelte';
import { actions } from '../state/actions.svelte.js';
import { words } from '../state/format.js';
import { router } from '../state/router.svelte.js';

let { name }: { name: string } = $props();
let stage = $state<'draft' | 'live'>('draft');
let scroller = $state<HTMLElement>();
// svelte-ignore state_referenced_locally
const chat = new Conversation(name, () => stage, router.query.get('session'));
const uid = $props.id();
$effect(() => router.fill());
$effect(() => actions.use([{ title: 'New conversation', run: () => chat.restart() }]));

async function down() {
  await tick();
  scroller?.scrollTo({ top: scroller.scrollHeight });
}
async function send(message: string) {
  const sent = chat.send(message);
  await down();
  await sent;
  await down();
}
</script>

<svelte:head><title>Chat with {words(name)} · Pindro</title></svelte:head>
<div class="editor-bar">
  <a href="/flows/{name}" class="icon-button" aria-label="The flow"><ArrowLeft size={17} aria-hidden="true" /></a>
  <h1 class="thing-name thing-name-compact">Chat with {words(name)}</h1>
  <div class="editor-doing">
    <label class="sr-only" for="{uid}-stage">Version</label>
    <select id="{uid}-stage" class="field w-auto py-1" bind:value={stage}>
      <option value="draft">the draft</option>
      <option value="live">the live revision</option>
    </select>
    <button type="button" class="button button-small" onclick={() => chat.restart()}>New conversation</button>
  </div>
</div>
<div class="chat">
  <ConversationList flow={name} open={chat.session} onOpen={(session) => void chat.open(session).then(down)} />
  <div class="chat-middle">
    <div class="chat-scroll" bind:this={scroller}>
      <div class="chat-said" aria-live="polite" aria-label="Conversation" role="log">
        {#each chat.exchanges as exchange, index (exchange)}
          <ExchangeView
            {exchange}
            last={index === chat.exchanges.length - 1}
            busy={chat.busy}
            onAgain={() => void chat.again().then(down)}
          />
        {:else}
          <Empty title="Say something">
            Each tool call appears as a line with its arguments, its result, and the run behind it.
          </Empty>
        {/each}
      </div>
    </div>
    <Composer busy={chat.busy} onSend={(message) => void send(message)} onStop={() => void chat.stop()} />
  </div>
</div>

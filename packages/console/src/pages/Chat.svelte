<script lang="ts">
import SendHorizontal from '@lucide/svelte/icons/send-horizontal';
import { tick } from 'svelte';
import Empty from '../parts/Empty.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import Problem from '../parts/Problem.svelte';
import ToolCall from '../parts/ToolCall.svelte';
import { api } from '../state/api.js';
import { Conversation } from '../state/conversation.svelte.js';
import { Resource } from '../state/resource.svelte.js';

let { name }: { name: string } = $props();

const flows = new Resource(() => api.listFlows(), ['flow']);
let stage = $state<'draft' | 'live'>('draft');
let message = $state('');
let end = $state<HTMLElement>();
// svelte-ignore state_referenced_locally
const chat = name ? new Conversation(name, () => stage) : null;
const uid = $props.id();

async function send(event?: Event) {
  event?.preventDefault();
  const text = message.trim();
  if (!chat || !text || chat.busy) return;
  message = '';
  const sent = chat.send(text);
  await tick();
  end?.scrollIntoView({ block: 'end' });
  await sent;
  await tick();
  end?.scrollIntoView({ block: 'end' });
}
</script>

{#if !chat}
  <PageHead title="Chat" about="Flows one can talk to: they have an agent and take a message." />
  <Loaded from={flows}>
    {#snippet children({ items })}
      {@const agents = items.filter((flow) => flow.agent)}
      {#if agents.length === 0}
        <Empty title="No flow to talk to yet"
          >A flow with an agent step and an input named <code class="chip">message</code> shows up here.</Empty
        >
      {:else}
        <ul class="grid gap-3 sm:grid-cols-2">
          {#each agents as flow (flow.name)}<li>
              <a href="/flows/{flow.name}/chat" class="panel block hover:border-spruce"
                ><span class="font-semibold">{flow.title}</span><br /><span class="text-soft">{flow.description}</span
                ></a
              >
            </li>{/each}
        </ul>
      {/if}
    {/snippet}
  </Loaded>
{:else}
  <PageHead
    title="Talk to {name.replaceAll('-', ' ')}"
    about="Each tool call shows as a card: what was sent, what came back, and the run behind it."
    back={{ to: `/flows/${name}`, label: 'The flow' }}
  >
    {#snippet actions()}
      <label class="sr-only" for="{uid}-stage">Version</label>
      <select id="{uid}-stage" class="field w-auto" bind:value={stage}
        ><option value="draft">draft</option><option value="live">live</option></select
      >
      <button type="button" class="button" onclick={() => chat.restart()}>New conversation</button>
    {/snippet}
  </PageHead>
  <div class="space-y-6" aria-live="polite" aria-label="Conversation">
    {#each chat.exchanges as exchange, index (index)}
      <div class="space-y-3">
        <p class="ml-auto w-fit max-w-[85%] rounded-2xl rounded-br-sm bg-spruce-wash px-4 py-2 whitespace-pre-wrap">
          {exchange.message}
        </p>
        {#each exchange.calls as call (call.id)}<ToolCall {call} />{/each}
        {#if exchange.answer}<p
            class="w-fit max-w-[85%] rounded-2xl rounded-bl-sm border border-line bg-card px-4 py-2 whitespace-pre-wrap"
          >
            {exchange.answer}
          </p>{:else if !exchange.outcome && !exchange.problem}<p class="busy">thinking …</p>{/if}
        {#if exchange.problem}<Problem problem={exchange.problem} />{/if}
        {#if exchange.outcome}<p class="text-sm">
            <a class="link" href="/runs/{exchange.outcome.run}">See the whole run</a>
          </p>{/if}
      </div>
    {:else}
      <Empty title="Say something">For example: “How many bunks are free in kestrel tomorrow?”</Empty>
    {/each}
  </div>
  <div bind:this={end} class="scroll-mb-32"></div>
  <form class="sticky bottom-0 mt-6 flex gap-2 border-t border-line bg-paper py-4" onsubmit={send}>
    <label class="sr-only" for="{uid}-message">Message</label>
    <textarea
      id="{uid}-message"
      class="field"
      rows="2"
      bind:value={message}
      placeholder="Your message"
      onkeydown={(event) => {
        if (event.key === 'Enter' && !event.shiftKey) void send(event);
      }}></textarea>
    <button class="button button-main" disabled={chat.busy || !message.trim()}
      ><SendHorizontal size={16} aria-hidden="true" /> {chat.busy ? 'Waiting …' : 'Send'}</button
    >
  </form>
{/if}

<script lang="ts">
import type { ServerDetail, ServerLogLine } from '@pindro/contract/light';
import Empty from '../parts/list/Empty.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';

/** Recent activity of a server, live: program output, notifications, actions. */
let { server }: { server: ServerDetail } = $props();
const LOOKS = { info: '', warning: 'text-ochre', error: 'text-rowan' };
const FROM = { program: 'program', server: 'server', pindro: 'Pindro' };
const EVERY = 2000;
const MOST = 1000;
let lines = $state.raw<ServerLogLine[]>([]);
let last = 0;
const log = new Resource(async () => {
  const { items } = await api.serverLog({ name: server.name, query: { after: last } });
  // Two may have been asked at once.
  const fresh = items.filter(({ id }) => id > last);
  last = fresh.at(-1)?.id ?? last;
  if (fresh.length > 0) lines = [...lines, ...fresh].slice(-MOST);
  return lines.length;
}, ['server']);
$effect(() => {
  const timer = setInterval(() => void log.refresh(), EVERY);
  return () => clearInterval(timer);
});
const time = (at: string) => new Date(at).toLocaleTimeString(undefined, { hour12: false });
let box = $state<HTMLElement>();
$effect(() => {
  void lines;
  // Whoever reads further up stays there.
  if (box && box.scrollHeight - box.scrollTop - box.clientHeight < 120) box.scrollTop = box.scrollHeight;
});
</script>

{#if lines.length === 0 && !log.loading}
  <Empty title="No activity since the service started">
    Program output, notifications and actions appear here.
  </Empty>
{:else}
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <div
    bind:this={box}
    class="max-h-[34rem] overflow-auto rounded-md bg-sunk p-3 font-mono text-[0.82rem] leading-relaxed"
    tabindex="0"
    role="log"
    aria-label="Log of {server.name}"
  >
    {#each lines as line (line.id)}
      <p class="flex gap-3 {LOOKS[line.level]}">
        <span class="shrink-0 text-soft">{time(line.at)}</span>
        <span class="w-16 shrink-0 text-soft">{FROM[line.from]}</span>
        <span class="min-w-0 wrap-anywhere whitespace-pre-wrap">{line.text}</span>
      </p>
    {/each}
  </div>
{/if}

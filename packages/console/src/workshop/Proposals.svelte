<script lang="ts">
import type { Workshop } from '@pindro/contract/light';
import Empty from '../parts/list/Empty.svelte';
import State from '../parts/text/State.svelte';
import { moment } from '../state/format.js';
import { router } from '../state/router.svelte.js';
import Proposal from './Proposal.svelte';

/** Proposals of assistants; the selected one is expanded. */
let { workshop }: { workshop: Workshop } = $props();
// svelte-ignore state_referenced_locally
let shown = $state(
  router.query.get('proposal') ?? workshop.proposals.find(({ state }) => state === 'open')?.id ?? '',
);
const STATES = { open: 'waiting', taken: 'done', declined: 'off' };
</script>

<h2 class="mb-2">Proposals</h2>
{#if workshop.proposals.length === 0}
  <Empty title="No proposals yet"
    >An assistant whose key may propose can send a new or changed flow. Review it here, accept it into the draft or
    reject it, and publish it yourself.</Empty
  >
{:else}
  <ul class="space-y-3">
    {#each workshop.proposals as one (one.id)}
      <li class="panel">
        <button
          type="button"
          class="flex w-full flex-wrap items-baseline gap-x-3 gap-y-1 text-left"
          aria-expanded={shown === one.id}
          onclick={() => (shown = shown === one.id ? '' : one.id)}
        >
          <span class="font-semibold">{one.flow}</span>{#if one.fresh}<span class="chip">new</span>{/if}
          <State state={STATES[one.state]} label={one.state} />
          <span class="text-sm text-soft"
            >{one.caller}{one.client ? ` through ${one.client}` : ''}, {moment(one.createdAt)}</span
          >
          <span class="w-full">{one.why}</span>
        </button>
        {#if one.note}<p class="mt-2 text-soft">{one.settledBy}: “{one.note}”</p>{/if}
        {#if shown === one.id}<div class="mt-4 border-t border-line pt-4">
            {#key one.state}<Proposal id={one.id} />{/key}
          </div>{/if}
      </li>
    {/each}
  </ul>
{/if}

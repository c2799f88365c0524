<script lang="ts">
import Check from '@lucide/svelte/icons/check';
import Copy from '@lucide/svelte/icons/copy';
import RotateCw from '@lucide/svelte/icons/rotate-cw';
import Problem from '../parts/text/Problem.svelte';
import ReceiptCard from '../parts/finding/ReceiptCard.svelte';
import Waiting from './Waiting.svelte';
import Calls from './Calls.svelte';
import type { Exchange } from './exchange.svelte.js';

interface Props {
  exchange: Exchange;
  /** Whether it is the last one, which can be tried again. */
  last: boolean;
  busy: boolean;
  onAgain: () => void;
}
/** One message, the calls it led to, and the answer, which is the largest thing. */
let { exchange, last, busy, onAgain }: Props = $props();

const receipt = $derived(exchange.outcome?.receipt ?? null);
let copied = $state(false);

async function copy() {
  await navigator.clipboard.writeText(exchange.answer);
  copied = true;
  setTimeout(() => (copied = false), 1500);
}
</script>

<article class="exchange">
  <p class="said">{exchange.message}</p>
  {#if exchange.all.length > 0}
    <div class="space-y-1" aria-label="Tool calls" role="group">
      {#each exchange.calls as calls, index (index)}<Calls {calls} />{/each}
    </div>
  {/if}
  {#if receipt && receipt.contradicts !== null}<ReceiptCard {receipt} />{/if}
  {#if exchange.answer}
    <div class="answer">
      {#await import('./Markdown.svelte')}
        <p class="whitespace-pre-wrap">{exchange.answer}</p>
      {:then { default: Markdown }}
        <Markdown text={exchange.answer} />
      {/await}
    </div>
  {/if}
  {#if receipt && receipt.contradicts === null && receipt.open.length > 0}<ReceiptCard {receipt} />{/if}
  {#if exchange.waits}<Waiting {exchange} />{/if}
  {#if !exchange.isOver && !exchange.waits}<p class="busy" role="status">{exchange.doing} …</p>{/if}
  {#if exchange.problem}<Problem problem={exchange.problem} />{/if}
  {#if exchange.isOver}
    <p class="exchange-tools">
      {#if exchange.outcome}<a class="link" href="/runs/{exchange.outcome.run}">View run</a>{/if}
      {#if exchange.answer}
        <button type="button" class="field-tool" aria-label="Copy answer" title="Copy" onclick={() => void copy()}>
          {#if copied}<Check size={15} aria-hidden="true" />{:else}<Copy size={15} aria-hidden="true" />{/if}
        </button>
        <span class="sr-only" role="status">{copied ? 'Copied' : ''}</span>
      {/if}
      {#if last}
        <button type="button" class="field-tool" aria-label="Retry" title="Retry" disabled={busy} onclick={onAgain}
          ><RotateCw size={15} aria-hidden="true" /></button
        >
      {/if}
    </p>
  {/if}
</article>

<script lang="ts">
import { humanDuration } from '@pindro/core/browser';
import Value from '../values/Value.svelte';

interface Side {
  status: string;
  took: number | null;
  input: unknown;
  output: unknown;
  error: string | null;
}
/** One side of a comparison of two runs; in full if it differs. */
let { side, whole }: { side: Side | null; whole: boolean } = $props();
const WORDS: Record<string, string> = { ok: 'done', error: 'failed', skipped: 'not run', running: 'running' };
</script>

{#if side === null}
  <span class="text-soft">not there</span>
{:else}
  <span class={side.status === 'error' ? 'text-rowan' : ''}>{WORDS[side.status] ?? side.status}</span>
  {#if side.took !== null}<span class="text-sm text-soft">{humanDuration(side.took)}</span>{/if}
  {#if whole}
    {#if side.error}<p class="text-rowan wrap-anywhere">{side.error}</p>{/if}
    <p class="mt-1 text-sm text-soft">input</p>
    <Value value={side.input} name="input" />
    {#if side.output !== null}
      <p class="mt-1 text-sm text-soft">output</p>
      <Value value={side.output} name="output" />
    {/if}
  {/if}
{/if}

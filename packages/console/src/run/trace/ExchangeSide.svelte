<script lang="ts">
import type { Json } from '@pindro/core/browser';
import Value from '../../values/Value.svelte';

interface Props {
  title: string;
  side: { headers?: Record<string, string> | undefined; characters?: number | undefined };
  body: Json;
  /** What it is called, for who cannot see where it stands. */
  name: string;
}
/** One side of an exchange: its first line, its body, and its headers folded. */
let { title, side, body, name }: Props = $props();
const headers = $derived(Object.entries(side.headers ?? {}));
</script>

<p class="mt-1 font-mono font-semibold wrap-anywhere">{title}</p>
{#if headers.length > 0}
  <details>
    <summary class="cursor-pointer text-soft">Headers</summary>
    <dl class="mb-1 font-mono text-[0.82rem]">
      {#each headers as [header, value] (header)}
        <div class="wrap-anywhere">
          <dt class="inline text-soft">{header}:</dt>
          <dd class="inline">{value}</dd>
        </div>
      {/each}
    </dl>
  </details>
{/if}
{#if body !== ''}<div class="min-w-0"><Value value={body} {name} /></div>{/if}
{#if side.characters !== undefined}
  <p class="hint">The first {side.characters.toLocaleString()} characters.</p>
{/if}

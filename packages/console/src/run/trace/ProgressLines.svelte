<script lang="ts">
import { attribute, humanDuration, isObject, type Json } from '@pindro/core/browser';
import type { Span } from './span-words.js';

/** What a server said, or its program wrote, while it worked. */
let { span }: { span: Span } = $props();
const lines = $derived(([span.attributes[attribute.said] ?? []].flat() as Json[]).filter(isObject));
</script>

{#if lines.length > 0}
  <details class="mb-3 text-sm" open>
    <summary class="cursor-pointer font-semibold text-soft">Progress messages</summary>
    <ol class="mt-1 grid gap-1">
      {#each lines as { after, level, text }, index (index)}
        <li class="wrap-anywhere">
          <span class="text-soft">{humanDuration(Number(after))}, {level}</span>
          {text}
        </li>
      {/each}
    </ol>
  </details>
{/if}

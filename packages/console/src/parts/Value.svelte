<script lang="ts">
import { brief, words } from '../state/format.js';
import Self from './Value.svelte';

/** A value as people read it: a table of its properties, never raw JSON; the JSON is one click away. */
let { value, name = 'value', json = true }: { value: unknown; name?: string; json?: boolean } = $props();

const isPlain = (inner: unknown) => typeof inner !== 'object' || inner === null;
const entries = $derived(isPlain(value) ? [] : Object.entries(value as object));
const say = (inner: unknown) =>
  inner === null ? 'nothing' : inner === true ? 'yes' : inner === false ? 'no' : String(inner);
</script>

{#if isPlain(value)}
  <span class="wrap-anywhere whitespace-pre-wrap">{say(value)}</span>
{:else if entries.length === 0}
  <span class="text-soft">{Array.isArray(value) ? 'an empty list' : 'nothing'}</span>
{:else}
  <dl class="grid grid-cols-[max-content_1fr] gap-x-4 gap-y-0.5">
    {#each entries as [key, inner] (key)}
      <dt class="text-soft">{Array.isArray(value) ? Number(key) + 1 : words(key)}</dt>
      <dd class="min-w-0">
        {#if isPlain(inner) || JSON.stringify(inner).length > 4000}
          <span class="wrap-anywhere whitespace-pre-wrap">{isPlain(inner) ? say(inner) : brief(inner, 400)}</span>
        {:else}
          <Self value={inner} json={false} />
        {/if}
      </dd>
    {/each}
  </dl>
{/if}
{#if json && !isPlain(value)}
  <details class="mt-1.5 text-sm">
    <summary class="cursor-pointer text-soft">JSON</summary>
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <pre
      class="mt-1 max-h-72 overflow-auto rounded-md bg-sunk p-2 font-mono text-[0.8rem]"
      tabindex="0"
      role="region"
      aria-label="JSON of {name}">{JSON.stringify(value, null, 2)}</pre>
  </details>
{/if}

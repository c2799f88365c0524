<script lang="ts">
import { words } from '../state/format.js';
import TreeBranch from './TreeBranch.svelte';
import Value from './Value.svelte';

/** The parts of a value under one another; what is deep opens when it is asked for. */
let { value, path }: { value: unknown; path: string } = $props();
const FIRST = 50;
let shown = $state(FIRST);
const isList = $derived(Array.isArray(value));
const entries = $derived(Object.entries(value as object));
const isDeep = (inner: unknown) =>
  typeof inner === 'object' && inner !== null && JSON.stringify(inner).length > 300;
const access = (key: string) =>
  isList ? `${path}[${key}]` : /^[A-Za-z_]\w*$/.test(key) ? `${path}${path && '.'}${key}` : `${path}["${key}"]`;
</script>

<dl class="value-tree">
  {#each entries.slice(0, shown) as [key, inner] (key)}
    {#if isDeep(inner)}
      <TreeBranch label={isList ? String(Number(key) + 1) : words(key)} value={inner} path={access(key)} />
    {:else}
      <div class="value-leaf">
        <dt title={access(key)}>{isList ? Number(key) + 1 : words(key)}</dt>
        <dd><Value value={inner} name={key} json={false} path={access(key)} /></dd>
      </div>
    {/if}
  {/each}
</dl>
{#if entries.length > shown}
  <button type="button" class="link text-sm" onclick={() => (shown += 200)}>
    Show more of {entries.length.toLocaleString()}
  </button>
{/if}

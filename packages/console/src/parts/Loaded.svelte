<script lang="ts" generics="T">
import type { Snippet } from 'svelte';
import type { Resource } from '../state/resource.svelte.js';
import Problem from './Problem.svelte';
import Skeleton from './Skeleton.svelte';

/** Shows what was loaded, or that it is loading, or why it could not be. */
let { from, children }: { from: Resource<T>; children: Snippet<[T]> } = $props();
</script>

{#if from.problem}
  <Problem problem={from.problem} />
{/if}
{#if from.value !== undefined}
  {@render children(from.value)}
{:else if from.loading}
  <Skeleton />
{/if}

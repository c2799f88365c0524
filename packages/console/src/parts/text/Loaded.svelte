<script lang="ts" generics="T">
import type { Snippet } from 'svelte';
import type { Resource } from '../../state/resource.svelte.js';
import PageHead from './PageHead.svelte';
import Problem from './Problem.svelte';
import Skeleton from './Skeleton.svelte';

/** Shows what was loaded, or that it is loading, or why it could not be. */
let { from, page, children }: { from: Resource<T>; page?: string; children: Snippet<[T]> } = $props();
</script>

{#if from.problem}
  <!-- A page whose thing is not there still says which page it is. -->
  {#if page && from.value === undefined}<PageHead title={page} />{/if}
  <Problem problem={from.problem} />
{/if}
{#if from.value !== undefined}
  {@render children(from.value)}
{:else if from.loading}
  <Skeleton />
{/if}

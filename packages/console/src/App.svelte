<script lang="ts">
import type { ProblemDetails } from '@pindro/contract/light';
import { type Component, untrack } from 'svelte';
import { pageAt } from './pages.js';
import Problem from './parts/text/Problem.svelte';
import Shell from './parts/shell/Shell.svelte';
import Skeleton from './parts/text/Skeleton.svelte';
import { live } from './state/live.svelte.js';
import { preferences } from './state/preferences.svelte.js';
import { router } from './state/router.svelte.js';
import { localProblem } from './state/local-problem.js';

interface Shown {
  path: string;
  name: string;
  Page: Component<{ name: string }>;
}
let shown = $state.raw<Shown | null>(null);
let problem = $state.raw<ProblemDetails | null>(null);
let SignedOut = $state.raw<Component | null>(null);

/** The present page stays until the next one is loaded, to avoid layout shifts. */
async function show(path: string) {
  const { load, name } = pageAt(path);
  try {
    const Page = await load();
    if (path === router.path) shown = { path, name, Page };
    problem = null;
  } catch {
    problem = localProblem(
      'This page could not be loaded',
      'The service does not respond, or was updated. Reload the page once it is running.',
    );
  }
}
$effect(() => void show(router.path));
$effect(() => {
  const { path } = router;
  untrack(() => preferences.visited(path));
});
$effect(() => {
  if (live.signedOut && !live.begun)
    void import('./pages/SignedOut.svelte').then((module) => (SignedOut = module.default as Component));
});

live.start();
</script>

{#if SignedOut && live.signedOut}
  <SignedOut />
{:else}
  <Shell>
    {#if problem}
      <Problem {problem} />
    {:else if shown}
      {#key shown.path}
        <shown.Page name={shown.name} />
      {/key}
    {:else}
      <Skeleton />
    {/if}
  </Shell>
{/if}

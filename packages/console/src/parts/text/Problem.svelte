<script lang="ts">
import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
import type { ProblemDetails } from '@pindro/contract/light';

let { problem }: { problem: ProblemDetails } = $props();
/** Errors of this page have no code of the catalogue. */
const isListed = (code: string | undefined) =>
  code !== undefined && /^[a-z][a-z0-9_]+$/.test(code) && code !== 'local';
// A mistake that equals the title and adds nothing is shown once.
const mistakes = $derived(
  (problem.mistakes ?? []).filter(({ message, hint, line }) => hint || line || !problem.detail.includes(message)),
);
</script>

<div role="alert" class="rounded-lg border border-rowan/40 bg-rowan-wash p-4">
  <p class="flex items-start gap-2 font-semibold text-rowan">
    <TriangleAlert size={18} class="mt-0.5 shrink-0" aria-hidden="true" />{problem.detail}
  </p>
  {#if problem.hint}<p class="mt-1 pl-6.5">{problem.hint}</p>{/if}
  {#if isListed(problem.code)}
    <p class="mt-1 pl-6.5 text-sm">
      <a class="link" href="/docs/errors#{problem.code}"
        >Documentation<span class="sr-only"> of {problem.code}</span></a
      >
    </p>
  {/if}
  {#if mistakes.length > 0}
    <ul class="mt-2 list-disc pl-12">
      {#each mistakes as mistake (mistake)}
        <li>
          {mistake.message}{mistake.line ? ` (line ${mistake.line}, column ${mistake.column})` : ''}{mistake.hint
            ? ` ${mistake.hint}`
            : ''}
        </li>
      {/each}
    </ul>
  {/if}
</div>

<script lang="ts">
import { humanDuration } from '@pindro/core/browser';
import { lengthOf, type Span } from './span-words.js';

/** The attempts at one step, and in what each differs from the one before. */
let { attempts, span }: { attempts: readonly Span[]; span: Span } = $props();
const same = (one: unknown, other: unknown) => JSON.stringify(one ?? null) === JSON.stringify(other ?? null);

function difference(index: number): string {
  const [before, now] = [attempts[index - 1], attempts[index]!];
  if (!before) return 'the first';
  const parts = [
    ...(same(before.input, now.input) ? [] : ['another input']),
    ...(before.error && now.error && before.error.message !== now.error.message ? ['another error'] : []),
    ...(before.error && now.error && before.error.message === now.error.message ? ['the same error'] : []),
    ...(before.error && !now.error ? ['it succeeded'] : []),
  ];
  const later = humanDuration(Math.max(0, now.start - (before.end ?? before.start)));
  return `${parts.join(', ') || 'the same'}, ${later} later`;
}
</script>

<ol class="mb-3 text-sm" aria-label="Attempts">
  {#each attempts as one, index (one.spanId)}
    <li class={one.spanId === span.spanId ? 'font-semibold' : 'text-soft'}>
      attempt {index + 1} of {attempts.length}: {humanDuration(lengthOf(one))}, {difference(
        index,
      )}{#if one.error && one.spanId !== span.spanId}:
        <span class="wrap-anywhere">{one.error.message}</span>{/if}
    </li>
  {/each}
</ol>

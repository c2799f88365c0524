<script lang="ts">
import CircleCheck from '@lucide/svelte/icons/circle-check';
import type { Snippet } from 'svelte';

export interface FirstStep {
  title: string;
  about: string;
  done: boolean;
}
interface Props {
  id: string;
  title: string;
  steps: FirstStep[];
  /** The first one that is not done. */
  next: number;
  /** What leads on from a step. */
  action: Snippet<[number]>;
}
/** Steps of a way, those that are done ticked, and what leads on from the next one. */
let { id, title, steps, next, action }: Props = $props();
</script>

<section class="panel mb-6" aria-labelledby={id}>
  <h2 {id} class="mb-3">{title}</h2>
  <ol class="grid gap-4 lg:grid-cols-3">
    {#each steps as step, index (step.title)}
      <li class="first-step" class:first-step-done={step.done}>
        <span class="first-step-number" aria-hidden="true">
          {#if step.done}<CircleCheck size={20} />{:else}{index + 1}{/if}
        </span>
        <div>
          <p class="font-semibold">
            {step.title}{#if step.done}<span class="sr-only">, done</span>{/if}
          </p>
          <p class="text-sm text-soft">{step.about}</p>
          {#if index === next}<p class="mt-2">{@render action(index)}</p>{/if}
        </div>
      </li>
    {/each}
  </ol>
</section>

<script lang="ts">
import Wrench from '@lucide/svelte/icons/wrench';
import type { StepCard } from '@pindro/contract/light';

/** An agent's toolbox on its card, row by row. */
let {
  tools,
  rules = false,
  open,
}: { tools: StepCard['tools']; rules?: boolean; open?: (() => void) | undefined } = $props();
</script>

{#if tools.length > 0}
  <ul class="mt-3 divide-y divide-line border-t border-line" aria-label="Toolbox">
    {#each tools as tool, index (index)}
      <li class="flex items-start gap-2 py-1.5 text-sm">
        <Wrench size={14} class="mt-1 shrink-0 text-soft" aria-hidden="true" />
        <span>
          {#if open}<button type="button" class="nodrag font-medium hover:underline" onclick={open}
              >{tool.from}</button
            >
          {:else}<span class="font-medium">{tool.from}</span>{/if}
          <span class="text-soft">{tool.use}{!rules && tool.set.length > 0 ? `, ${tool.set.length} set` : ''}</span>
          {#if rules}
            {#each tool.set as rule (rule)}<span class="block text-soft">set: {rule}</span>{/each}
          {/if}
        </span>
      </li>
    {/each}
  </ul>
{/if}

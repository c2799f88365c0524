<script lang="ts">
import { api } from '../../state/api.js';
import { plural } from '../../state/format.js';
import { Action, Resource } from '../../state/resource.svelte.js';
import NameCell from '../list/NameCell.svelte';
import Problem from '../text/Problem.svelte';
import ThingMenu from './ThingMenu.svelte';
import When from '../text/When.svelte';

/** OpenAPI documents that flows were made of: read again, renamed, forgotten. */
const kept = new Resource(() => api.listDocuments(), ['document']);
const look = new Action((document: string, apply: boolean) =>
  api.refreshDocument({ name: document, body: { apply } }),
);
</script>

{#if kept.value && kept.value.items.length > 0}
  <h3 class="mt-6 mb-2 font-semibold">Imported documents</h3>
  <ul class="divide-y divide-line rounded-lg border border-line">
    {#each kept.value.items as one (one.name)}
      <li class="flex flex-wrap items-center justify-between gap-2 px-3 py-2">
        <span>
          <NameCell sort="document" name={one.name} onOpen={() => void look.run(one.name, false)} />
          <span class="block text-sm text-soft">
            {one.title}
            {one.version}: {plural(one.flows.length, 'flow')}, read <When at={one.readAt} />
          </span>
        </span>
        <span class="flex items-center gap-1">
          {#if one.url}
            <button
              type="button"
              class="button py-1"
              disabled={look.busy}
              onclick={() => void look.run(one.name, false)}>Refresh</button
            >
          {/if}
          <ThingMenu sort="document" name={one.name} />
        </span>
      </li>
    {/each}
  </ul>
  {#if look.problem}<div class="mt-3"><Problem problem={look.problem} /></div>{/if}
  {#if look.result}
    {@const changed = look.result.items.filter((one) => one.change !== 'same')}
    <div class="mt-3 rounded-md bg-sunk p-3" role="status">
      {#if changed.length === 0}
        <p>No changes for these flows.</p>
      {:else}
        <ul class="mb-3 list-disc pl-5">
          {#each changed as one (one.flow)}
            <li>
              <span class="font-medium">{one.flow}</span>: {one.change === 'gone'
                ? 'the operation was removed; the flow remains'
                : one.changes.map((change) => change.what).join('; ')}
              {#if one.conflicts.length > 0}
                <span class="block text-sm text-ochre">edited here, preserved: {one.conflicts.join(', ')}</span>
              {/if}
            </li>
          {/each}
        </ul>
        <button
          type="button"
          class="button button-main"
          disabled={look.busy}
          onclick={() => void look.run(look.result!.document.name, true)}>Apply changes</button
        >
      {/if}
    </div>
  {/if}
{/if}

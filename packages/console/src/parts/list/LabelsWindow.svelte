<script lang="ts">
import { api } from '../../state/api.js';
import { plural } from '../../state/format.js';
import { removing } from '../../state/removing.svelte.js';
import { Resource } from '../../state/resource.svelte.js';
import Loaded from '../text/Loaded.svelte';
import NameCell from './NameCell.svelte';
import Window from '../text/Window.svelte';

/** Every label: renamed on all flows that carry it, or taken off them. */
let { open = $bindable() }: { open: boolean } = $props();
const labels = new Resource(() => api.listLabels(), ['flow']);
</script>

<Window bind:open title="Labels">
  <Loaded from={labels}>
    {#snippet children({ items })}
      <ul class="divide-y divide-line">
        {#each items as one (one.name)}
          <li class="flex items-center justify-between gap-3 py-1.5">
            <span>
              <NameCell sort="label" name={one.name} href="/flows?label={encodeURIComponent(one.name)}" />
              <span class="text-sm text-soft">on {plural(one.flows.length, 'flow')}</span>
            </span>
            <button
              type="button"
              class="button button-small"
              aria-label="Remove {one.name} from every flow?"
              onclick={() => void removing.remove('label', one.name)}>Remove</button
            >
          </li>
        {/each}
      </ul>
    {/snippet}
  </Loaded>
</Window>

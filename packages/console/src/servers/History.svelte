<script lang="ts">
import type { ServerDetail } from '@pindro/contract/light';
import When from '../parts/text/When.svelte';
import { api } from '../state/api.js';
import { plural } from '../state/format.js';
import { Resource } from '../state/resource.svelte.js';
import Difference from './Difference.svelte';

/** The tool lists that a server had, the latest first. */
let { server }: { server: ServerDetail } = $props();
const lists = new Resource(() => api.serverHistory({ name: server.name }), ['server']);
const WORDS = {
  attached: 'Attached',
  seen: 'Tools changed',
  accepted: 'accepted',
  refused: 'refused',
};
</script>

{#if (lists.value?.items.length ?? 0) > 0}
  <section class="mt-8">
    <h2 class="mb-2">Previous tool lists</h2>
    <ol class="space-y-1">
      {#each lists.value!.items as one (one.id)}
        <li>
          {#if one.what === 'seen'}
            <details>
              <summary
                ><When at={one.at} />: {WORDS.seen}: {one.about.join(', ')}
                <span class="text-soft">({plural(one.tools, 'tool')} in total)</span></summary
              >
              <ul class="my-2 ml-5 space-y-3">
                {#each one.changes as change (change.tool)}
                  <li><span class="font-mono font-medium">{change.tool}</span><Difference {change} /></li>
                {/each}
              </ul>
            </details>
          {:else if one.what === 'attached'}
            <p><When at={one.at} />: {WORDS.attached}, with {plural(one.tools, 'tool')}</p>
          {:else}
            <p><When at={one.at} />: {one.by} {WORDS[one.what]} {one.about.join(', ')}</p>
          {/if}
        </li>
      {/each}
    </ol>
  </section>
{/if}

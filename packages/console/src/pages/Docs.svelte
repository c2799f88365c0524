<script lang="ts">
import Loaded from '../parts/text/Loaded.svelte';
import PageHead from '../parts/text/PageHead.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';

const pages = new Resource(() => api.listDocs(), []);
</script>

<PageHead title="Documentation" about="Guides and reference of this version. Ctrl K searches all pages." />
<Loaded from={pages}>
  {#snippet children({ items })}
    <ul class="grid gap-3 sm:grid-cols-2">
      {#each items as page (page.name)}
        <li class="panel">
          <h2><a class="link" href="/docs/{page.name}">{page.title}</a></h2>
          {#if page.about}<p class="mt-1 text-soft">{page.about}</p>{/if}
        </li>
      {/each}
    </ul>
  {/snippet}
</Loaded>

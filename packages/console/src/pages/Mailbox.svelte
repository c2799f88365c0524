<script lang="ts">
import When from '../parts/text/When.svelte';
import Empty from '../parts/list/Empty.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import PageHead from '../parts/text/PageHead.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';

const mails = new Resource(() => api.listMails(), ['mailbox', 'run']);
</script>

<PageHead title="Mailbox" about="A simulated mailbox of the demo: every mail arrives here." />
<Loaded from={mails}>
  {#snippet children({ items })}
    {#if items.length === 0}
      <Empty title="No mails yet"
        >In the demo the lift company sends a mail to a hut when a load for it is booked. Send one with <a
          class="link"
          href="/flows/send-load">send load</a
        >.</Empty
      >
    {:else}
      <ul class="space-y-3">
        {#each items as mail (mail.id)}
          <li class="panel">
            <div class="flex flex-wrap justify-between gap-2">
              <h2>{mail.subject}</h2>
              <span class="text-sm text-soft"><When at={mail.at} /></span>
            </div>
            <p class="text-sm text-soft">from {mail.from} to {mail.to.join(', ')}</p>
            <p class="mt-2 whitespace-pre-wrap">{mail.text.trim()}</p>
          </li>
        {/each}
      </ul>
    {/if}
  {/snippet}
</Loaded>

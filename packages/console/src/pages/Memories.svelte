<script lang="ts">
import type { MemorySummary } from '@pindro/contract/light';
import MemoryWindow from '../asked/MemoryWindow.svelte';
import Empty from '../parts/list/Empty.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import PageHead from '../parts/text/PageHead.svelte';
import Rows from '../parts/list/Rows.svelte';
import When from '../parts/text/When.svelte';
import { api } from '../state/api.js';
import { plural, words } from '../state/format.js';
import { Resource } from '../state/resource.svelte.js';

let looked = $state('');
let chosen = $state<MemorySummary | null>(null);
const memories = new Resource(() => api.listMemories({ query: looked ? { search: looked } : {} }), ['memory']);
const uid = $props.id();
</script>

<PageHead title="Memory" about="What agents remember of conversations: view it, correct notes, or delete it." />
<label class="label" for="{uid}-find">Search</label>
<input
  id="{uid}-find"
  class="field mb-4"
  type="search"
  placeholder="words in a conversation, note or caller"
  bind:value={looked}
/>
<Loaded from={memories}>
  {#snippet children({ items })}
    {#if items.length === 0}
      <Empty title={looked ? 'No matching memories' : 'No memories yet'}>
        Agent steps with a memory store their conversations here.
      </Empty>
    {:else}
      <Rows label="Memories" headings={['Conversation', 'Agent', 'Caller', 'Turns', 'Last changed']} {items}>
        {#snippet row(one)}
          <td>
            <button type="button" class="link text-left wrap-anywhere" onclick={() => (chosen = one)}>
              {one.key.join(' / ')}
            </button>
          </td>
          <td>
            {#if one.flow}<a class="link" href="/flows/{one.flow}">{words(one.flow)}</a>
              <span class="text-sm text-soft">{one.step}{one.stage === 'draft' ? ', draft' : ''}</span>
            {:else}<span class="text-soft">shared</span>{/if}
          </td>
          <td>{one.caller ?? ''}</td>
          <td class="text-soft">
            {plural(one.exchanges, 'exchange')}{one.notes > 0 ? `, ${plural(one.notes, 'note')}` : ''}
          </td>
          <td class="text-soft"><When at={one.updatedAt} /></td>
        {/snippet}
      </Rows>
    {/if}
  {/snippet}
</Loaded>
{#if chosen}
  <MemoryWindow id={chosen.id} title={chosen.key.join(' / ')} onClose={() => (chosen = null)} />
{/if}

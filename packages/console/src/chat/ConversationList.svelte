<script lang="ts">
import When from '../parts/text/When.svelte';
import { api } from '../state/api.js';
import { brief, plural } from '../state/format.js';
import { Resource } from '../state/resource.svelte.js';

/** Recent conversations with a flow, by their first message. */
let { flow, open, onOpen }: { flow: string; open: string; onOpen: (session: string) => void } = $props();
// svelte-ignore state_referenced_locally
const conversations = new Resource(() => api.listConversations({ name: flow }), ['run']);
</script>

<nav aria-label="Conversations" class="conversations">
  <ul>
    {#each conversations.value?.items ?? [] as one (one.session)}
      <li>
        <button
          type="button"
          class="conversation"
          aria-current={one.session === open ? 'true' : undefined}
          onclick={() => onOpen(one.session)}
        >
          <span class="block truncate">{brief(one.begins, 60)}</span>
          <span class="text-sm text-soft">{plural(one.turns, 'turn')}, <When at={one.lastAt} /></span>
        </button>
      </li>
    {:else}
      <li class="px-2 text-sm text-soft">No conversations yet.</li>
    {/each}
  </ul>
</nav>

<script lang="ts">
import type { Component } from 'svelte';
import Approvals from './pages/Approvals.svelte';
import Chat from './pages/Chat.svelte';
import Credentials from './pages/Credentials.svelte';
import EndpointPage from './pages/EndpointPage.svelte';
import Endpoints from './pages/Endpoints.svelte';
import FlowPage from './pages/FlowPage.svelte';
import Flows from './pages/Flows.svelte';
import Mailbox from './pages/Mailbox.svelte';
import Models from './pages/Models.svelte';
import Nowhere from './pages/Nowhere.svelte';
import Overview from './pages/Overview.svelte';
import People from './pages/People.svelte';
import RunPage from './pages/RunPage.svelte';
import Runs from './pages/Runs.svelte';
import ServerPage from './pages/ServerPage.svelte';
import Servers from './pages/Servers.svelte';
import SignedOut from './pages/SignedOut.svelte';
import TablePage from './pages/TablePage.svelte';
import Tables from './pages/Tables.svelte';
import Workshop from './pages/Workshop.svelte';
import Shell from './parts/Shell.svelte';
import { live } from './state/live.svelte.js';
import { router } from './state/router.svelte.js';

/** Every page by its address; a new one is one file and one line. */
const pages = [
  { at: /^\/$/, page: Overview },
  { at: /^\/flows$/, page: Flows },
  { at: /^\/flows\/([^/]+)$/, page: FlowPage },
  { at: /^\/flows\/([^/]+)\/chat$/, page: Chat },
  { at: /^\/chat$/, page: Chat },
  { at: /^\/approvals$/, page: Approvals },
  { at: /^\/endpoints$/, page: Endpoints },
  { at: /^\/endpoints\/workshop$/, page: Workshop },
  { at: /^\/endpoints\/([^/]+)$/, page: EndpointPage },
  { at: /^\/servers$/, page: Servers },
  { at: /^\/servers\/([^/]+)$/, page: ServerPage },
  { at: /^\/models$/, page: Models },
  { at: /^\/credentials$/, page: Credentials },
  { at: /^\/tables$/, page: Tables },
  { at: /^\/tables\/([^/]+)$/, page: TablePage },
  { at: /^\/mailbox$/, page: Mailbox },
  { at: /^\/people$/, page: People },
  { at: /^\/runs$/, page: Runs },
  { at: /^\/runs\/([^/]+)$/, page: RunPage },
].map(({ at, page }) => ({ at, page: page as unknown as Component<{ name: string }> }));

const here = $derived.by(() => {
  for (const { at, page } of pages) {
    const match = at.exec(router.path);
    if (match) return { page, name: decodeURIComponent(match[1] ?? '') };
  }
  return { page: Nowhere as Component<{ name: string }>, name: router.path };
});

live.start();
</script>

{#if live.signedOut}
  <SignedOut />
{:else}
  <Shell>
    {#key router.path}
      <here.page name={here.name} />
    {/key}
  </Shell>
{/if}

<script lang="ts">
import Ban from '@lucide/svelte/icons/ban';
import Copy from '@lucide/svelte/icons/copy';
import Ellipsis from '@lucide/svelte/icons/ellipsis';
import RefreshCw from '@lucide/svelte/icons/refresh-cw';
import Trash from '@lucide/svelte/icons/trash-2';
import type { KeySummary } from '@pindro/contract/light';
import { DropdownMenu } from 'bits-ui';
import Window from '../parts/text/Window.svelte';
import { removing } from '../state/removing.svelte.js';
import type { Keyring } from './keyring.svelte.js';

/** What can be done with a key. Revoking one is for good, and is asked about. */
let { key, ring }: { key: KeySummary; ring: Keyring } = $props();
let revoking = $state(false);

async function revoke() {
  revoking = false;
  await ring.revoke.run(key.id);
}
</script>

<DropdownMenu.Root>
  <DropdownMenu.Trigger class="icon-button" aria-label="More about {key.name}">
    <Ellipsis size={18} aria-hidden="true" />
  </DropdownMenu.Trigger>
  <DropdownMenu.Portal>
    <DropdownMenu.Content class="menu" align="end" sideOffset={4}>
      <DropdownMenu.Item class="menu-item" onSelect={() => void ring.rotate.run(key.id)}>
        <RefreshCw size={16} aria-hidden="true" /> Rotate: issues a new key; the old one is valid for another day
      </DropdownMenu.Item>
      <DropdownMenu.Item class="menu-item" onSelect={() => void ring.copy.run(key)}>
        <Copy size={16} aria-hidden="true" /> Copy with the same scope
      </DropdownMenu.Item>
      {#if key.revokedAt === null}
        <DropdownMenu.Item class="menu-item text-rowan" onSelect={() => (revoking = true)}>
          <Ban size={16} aria-hidden="true" /> Revoke
        </DropdownMenu.Item>
      {/if}
      <DropdownMenu.Item
        class="menu-item text-rowan"
        onSelect={() => void removing.remove('key', key.id, undefined, key.name)}
      >
        <Trash size={16} aria-hidden="true" /> Remove
      </DropdownMenu.Item>
    </DropdownMenu.Content>
  </DropdownMenu.Portal>
</DropdownMenu.Root>
{#if revoking}
  <Window
    bind:open={revoking}
    title="Revoke “{key.name}”?"
    about="Clients that use it lose access immediately. This cannot be undone."
  >
    <div class="flex gap-2">
      <button type="button" class="button button-danger" onclick={() => void revoke()}>Revoke</button>
      <button type="button" class="button" onclick={() => (revoking = false)}>Keep</button>
    </div>
  </Window>
{/if}

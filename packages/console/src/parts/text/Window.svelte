<script lang="ts">
import X from '@lucide/svelte/icons/x';
import { Dialog } from 'bits-ui';
import type { Snippet } from 'svelte';

interface Props {
  open: boolean;
  title: string;
  about?: string;
  /** Takes the room there is. */
  wide?: boolean;
  children: Snippet;
}
let { open = $bindable(), title, about, wide = false, children }: Props = $props();
</script>

<Dialog.Root bind:open>
  <Dialog.Portal>
    <Dialog.Overlay class="window-behind" />
    <Dialog.Content class="window {wide ? 'window-wide' : ''}">
      <Dialog.Title class="pr-8 text-xl font-bold">{title}</Dialog.Title>
      {#if about}<Dialog.Description class="mt-1 text-soft">{about}</Dialog.Description>{/if}
      <div class="mt-4">{@render children()}</div>
      <Dialog.Close class="icon-button absolute top-4 right-4" aria-label="Close">
        <X size={18} aria-hidden="true" />
      </Dialog.Close>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>

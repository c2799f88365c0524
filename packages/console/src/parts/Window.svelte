<script lang="ts">
import X from '@lucide/svelte/icons/x';
import { Dialog } from 'bits-ui';
import type { Snippet } from 'svelte';

interface Props {
  open: boolean;
  title: string;
  about?: string;
  children: Snippet;
}
let { open = $bindable(), title, about, children }: Props = $props();
</script>

<Dialog.Root bind:open>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-20 bg-[rgb(0_0_0/0.45)]" />
    <Dialog.Content class="fixed top-1/2 left-1/2 z-20 max-h-[90vh] w-[min(44rem,94vw)] -translate-x-1/2 -translate-y-1/2 overflow-auto rounded-xl border border-line bg-card p-6 text-ink shadow-xl">
      <Dialog.Title class="pr-8 text-xl font-bold">{title}</Dialog.Title>
      {#if about}<Dialog.Description class="mt-1 text-soft">{about}</Dialog.Description>{/if}
      <div class="mt-4">{@render children()}</div>
      <Dialog.Close class="absolute top-5 right-5 rounded p-1 text-soft hover:text-ink" aria-label="Close"><X size={18} aria-hidden="true" /></Dialog.Close>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>

<script lang="ts">
import Footprints from '@lucide/svelte/icons/footprints';
import Play from '@lucide/svelte/icons/play';

interface Props {
  busy: boolean;
  liveBusy: boolean;
  published: boolean;
  onStepping: () => void;
  onLive: () => void;
}
let { busy, liveBusy, published, onStepping, onLive }: Props = $props();
</script>

<div class="flex flex-wrap gap-2">
  <button class="button button-main" disabled={busy}>
    <Play size={16} aria-hidden="true" />
    {busy ? 'Running …' : 'Run'}
  </button>
  <button type="button" class="button" disabled={busy} onclick={onStepping}>
    <Footprints size={16} aria-hidden="true" /> Step by step
  </button>
  {#if published}
    <button type="button" class="button" disabled={liveBusy} onclick={onLive}>
      {liveBusy ? 'Running …' : 'Run live'}
    </button>
  {/if}
</div>

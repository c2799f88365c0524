<script lang="ts">
/** States whose name in the API is not the one for people. */
const LABELS: Record<string, string> = { off: 'disabled', trying: 'connecting' };
let { state, label = LABELS[state] ?? state }: { state: string; label?: string } = $props();

const looks: Record<string, string> = {
  done: 'bg-spruce-wash text-spruce',
  ready: 'bg-spruce-wash text-spruce',
  live: 'bg-spruce-wash text-spruce',
  failed: 'bg-rowan-wash text-rowan',
  interrupted: 'bg-rowan-wash text-rowan',
  unreachable: 'bg-rowan-wash text-rowan',
  refused: 'bg-rowan-wash text-rowan',
  running: 'bg-glacier-wash text-glacier',
  waiting: 'bg-ochre-wash text-ochre',
  cancelled: 'bg-ochre-wash text-ochre',
  changed: 'bg-ochre-wash text-ochre',
};
</script>

<span
  class="inline-block rounded-full px-2.5 py-0.5 text-sm font-medium whitespace-nowrap {looks[state] ??
    'bg-sunk text-soft'}">{label}</span
>

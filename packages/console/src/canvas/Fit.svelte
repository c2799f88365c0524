<script lang="ts">
import { useNodesInitialized, useSvelteFlow } from '@xyflow/svelte';

/** Lays the cards out again once their true heights are known, then brings them all into view. */
let { onMeasured }: { onMeasured: (heights: Map<string, number>) => void } = $props();
const ready = useNodesInitialized();
const { getNodes, fitView } = useSvelteFlow();
let done = false;

$effect(() => {
  if (!ready.current || done) return;
  done = true;
  onMeasured(new Map(getNodes().map((node) => [node.id, node.measured?.height ?? 0])));
  requestAnimationFrame(() => void fitView({ padding: 0.08, maxZoom: 1 }));
});
</script>

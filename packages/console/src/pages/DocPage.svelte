<script lang="ts">
import DocText from '../docs/DocText.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import PageHead from '../parts/text/PageHead.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';

let { name }: { name: string } = $props();
const page = new Resource(() => api.getDoc({ name }), []);
</script>

<Loaded from={page}>
  {#snippet children(doc)}
    <PageHead title={doc.title} back={{ to: '/docs', label: 'Documentation' }} />
    <DocText text={doc.text} />
  {/snippet}
</Loaded>

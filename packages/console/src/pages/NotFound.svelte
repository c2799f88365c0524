<script lang="ts">
import Empty from '../parts/list/Empty.svelte';
import PageHead from '../parts/text/PageHead.svelte';

let { name }: { name: string } = $props();
</script>

<PageHead title="Page not found" />
<Empty title="No page exists at {name}"
  >Go to the <a class="link" href="/">overview</a>, or choose a page from the list.</Empty
>

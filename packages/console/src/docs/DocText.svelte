<script lang="ts">
import { tick } from 'svelte';
import { router } from '../state/router.svelte.js';
import { render } from './render.js';

/** A page of the documentation with its table of contents. */
let { text }: { text: string } = $props();
const page = $derived(render(text));

/** Shows the section in the address, also when only that changes. */
$effect(() => {
  void page;
  const anchor = router.hash.slice(1);
  if (anchor) void tick().then(() => document.getElementById(anchor)?.scrollIntoView());
});
</script>

<div class="gap-8 lg:grid lg:grid-cols-[minmax(0,1fr)_13rem]">
  <article class="markdown doc-text">{@html page.html}</article>
  {#if page.headings.length > 1}
    <nav aria-label="Contents" class="order-first mb-4 lg:order-none lg:mb-0">
      <ul class="doc-contents">
        {#each page.headings as { title, anchor } (anchor)}
          <li><a href="#{anchor}">{title}</a></li>
        {/each}
      </ul>
    </nav>
  {/if}
</div>

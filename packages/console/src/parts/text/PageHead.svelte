<script lang="ts">
import type { Snippet } from 'svelte';
import DocsLink from '../shell/DocsLink.svelte';

interface Props {
  title: string;
  /** One sentence on what the page is for. */
  about?: string;
  back?: { to: string; label: string };
  actions?: Snippet;
}
let { title, about, back, actions }: Props = $props();
</script>

<svelte:head><title>{title} · Pindro</title></svelte:head>
<div class="page-head">
  <div class="min-w-0">
    {#if back}<a href={back.to} class="text-sm text-soft hover:text-ink">← {back.label}</a>{/if}
    <h1 class="wrap-anywhere">{title}</h1>
    {#if about}<p class="mt-1 max-w-2xl text-soft">{about}</p>{/if}
  </div>
  <div class="flex flex-wrap items-center gap-2">{@render actions?.()}<DocsLink /></div>
</div>

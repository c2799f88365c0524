<script lang="ts">
import type { Snippet } from 'svelte';
import { router } from '../../state/router.svelte.js';
import type { ThingType } from '../../state/things.js';
import DocsLink from '../shell/DocsLink.svelte';
import ThingMenu from './ThingMenu.svelte';
import ThingName from './ThingName.svelte';

interface Props {
  sort: ThingType;
  name: string;
  title: string;
  about?: string;
  back: { to: string; label: string };
  actions?: Snippet;
}
/** The head of a thing's page: renamed in place, copied, removed from there. */
let { sort, name, title, about, back, actions }: Props = $props();
</script>

<svelte:head><title>{title} · Pindro</title></svelte:head>
<div class="page-head">
  <div class="min-w-0">
    <a href={back.to} class="text-sm text-soft hover:text-ink">← {back.label}</a>
    <ThingName {sort} {name} {title} />
    {#if about}<p class="mt-1 max-w-2xl text-soft">{about}</p>{/if}
  </div>
  <div class="flex flex-wrap items-center gap-2">
    {@render actions?.()}
    <DocsLink />
    <ThingMenu {sort} {name} onRemoved={() => router.go(back.to)} />
  </div>
</div>

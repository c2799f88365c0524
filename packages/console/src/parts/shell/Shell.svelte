<script lang="ts">
import PanelLeft from '@lucide/svelte/icons/panel-left';
import Search from '@lucide/svelte/icons/search';
import type { Snippet } from 'svelte';
import { live } from '../../state/live.svelte.js';
import { preferences } from '../../state/preferences.svelte.js';
import { router } from '../../state/router.svelte.js';
import { shortcuts } from '../../state/shortcuts.svelte.js';
import KeysWindow from './KeysWindow.svelte';
import NavLink from './NavLink.svelte';
import Notices from './Notices.svelte';
import { NAVIGATION } from './places.js';
import RemovalWindow from '../resource/RemovalWindow.svelte';
import SearchWindow from './SearchWindow.svelte';
import SignInAgain from './SignInAgain.svelte';

let { children }: { children: Snippet } = $props();
let searching = $state(false);
let keys = $state(false);
/** A page that fills the window, such as the editor, has the navigation as icons. */
const folded = $derived(preferences.navFolded || router.filled);

$effect(() =>
  shortcuts.use('Global', [
    { key: 'ctrl+k', does: 'search everything', run: () => (searching = true) },
    { key: '/', does: 'search everything', run: () => (searching = true) },
    {
      key: '[',
      does: 'collapse the navigation',
      run: () => preferences.set({ navFolded: !preferences.navFolded }),
    },
    { key: '?', does: 'show the shortcuts', run: () => (keys = true) },
    { key: 'escape', does: 'close the topmost panel' },
  ]),
);
</script>

<a href="#main" class="skip-link">Skip to content</a>
<div class="shell" class:shell-folded={folded} class:shell-filled={router.filled}>
  <header class="shell-nav">
    <div class="shell-head">
      <a href="/" class="shell-name" aria-label="Pindro">
        <svg viewBox="0 0 32 32" class="size-6 shrink-0 text-spruce" aria-hidden="true">
          <path d="M3 27 13 8l5 10 3-5 8 14Z" fill="currentColor" />
        </svg>
        <span class="shell-word">Pindro</span>
      </a>
    </div>
    <button type="button" class="shell-search" onclick={() => (searching = true)}>
      <Search size={17} class="shrink-0" aria-hidden="true" />
      <span class="shell-word grow text-left">Search</span>
      <kbd class="key shell-word">Ctrl K</kbd>
    </button>
    <nav aria-label="Pages" class="flex w-full min-w-0 gap-0.5 overflow-x-auto lg:grow lg:flex-col">
      {#each NAVIGATION as group (group.name)}
        {#if group.name}<h2 id="nav-{group.name}" class="nav-group-name">{group.name}</h2>{/if}
        <ul class="nav-group" aria-labelledby={group.name ? `nav-${group.name}` : undefined}>
          {#each group.places as place (place.to)}
            <li><NavLink to={place.to} label={place.label} icon={place.icon} {folded} /></li>
          {/each}
        </ul>
      {/each}
    </nav>
    {#if !router.filled}
      <button
        type="button"
        class="shell-fold"
        aria-pressed={folded}
        title="Collapse the navigation ([)"
        onclick={() => preferences.set({ navFolded: !folded })}
      >
        <PanelLeft size={17} aria-hidden="true" />
        <span class="shell-word">Collapse</span>
        <span class="sr-only">the navigation</span>
      </button>
    {/if}
  </header>
  <div class="shell-page">
    {#if !live.connected && !live.signedOut}
      <p role="status" class="shell-lost">Connecting to the service … Your input on this page is preserved.</p>
    {/if}
    {#if live.signedOut}<SignInAgain />{/if}
    <main id="main" class={router.filled ? 'main-filled' : 'main'} tabindex="-1">
      {@render children()}
    </main>
  </div>
  <Notices />
</div>
<RemovalWindow />
{#if searching}<SearchWindow bind:open={searching} onKeys={() => (keys = true)} />{/if}
{#if keys}<KeysWindow bind:open={keys} />{/if}

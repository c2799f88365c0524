<script lang="ts">
import Database from '@lucide/svelte/icons/database';
import KeyRound from '@lucide/svelte/icons/key-round';
import LayoutDashboard from '@lucide/svelte/icons/layout-dashboard';
import Mail from '@lucide/svelte/icons/mail';
import MessageSquare from '@lucide/svelte/icons/message-square';
import Plug from '@lucide/svelte/icons/plug';
import Radio from '@lucide/svelte/icons/radio';
import Route from '@lucide/svelte/icons/route';
import Sparkles from '@lucide/svelte/icons/sparkles';
import UserCheck from '@lucide/svelte/icons/user-check';
import Users from '@lucide/svelte/icons/users';
import Waypoints from '@lucide/svelte/icons/waypoints';
import type { Snippet } from 'svelte';
import { live } from '../state/live.svelte.js';
import { router } from '../state/router.svelte.js';

let { children }: { children: Snippet } = $props();

const places = [
  { to: '/', label: 'Overview', icon: LayoutDashboard },
  { to: '/flows', label: 'Flows', icon: Waypoints },
  { to: '/chat', label: 'Chat', icon: MessageSquare },
  { to: '/runs', label: 'Runs', icon: Route },
  { to: '/approvals', label: 'Approvals', icon: UserCheck },
  { to: '/endpoints', label: 'Endpoints', icon: Radio },
  { to: '/servers', label: 'Tool servers', icon: Plug },
  { to: '/models', label: 'Models', icon: Sparkles },
  { to: '/credentials', label: 'Credentials', icon: KeyRound },
  { to: '/tables', label: 'Tables', icon: Database },
  { to: '/mailbox', label: 'Mailbox', icon: Mail },
  { to: '/people', label: 'People', icon: Users },
];
const isHere = (to: string) =>
  to === '/' ? router.path === '/' : router.path === to || router.path.startsWith(`${to}/`);
</script>

<a href="#main" class="sr-only focus:not-sr-only focus:absolute focus:z-10 focus:m-2 focus:rounded focus:bg-card focus:p-2">Skip to the page</a>
<div class="min-h-screen lg:grid lg:grid-cols-[13rem_1fr]">
  <header class="border-b border-line px-3 py-3 lg:sticky lg:top-0 lg:h-screen lg:border-r lg:border-b-0 lg:py-6">
    <a href="/" class="mb-2 flex items-center gap-2 px-2 text-lg font-bold tracking-tight lg:mb-6">
      <svg viewBox="0 0 32 32" class="size-6 text-spruce" aria-hidden="true"><path d="M3 27 13 8l5 10 3-5 8 14Z" fill="currentColor" /></svg>
      Pindro
    </a>
    <nav aria-label="Pages">
      <ul class="flex gap-0.5 overflow-x-auto lg:flex-col">
        {#each places as { to, label, icon: Icon } (to)}
          <li>
            <a href={to} aria-current={isHere(to) ? 'page' : undefined} class="flex items-center gap-2.5 rounded-md px-2 py-1.5 whitespace-nowrap {isHere(to) ? 'bg-spruce-wash font-semibold text-spruce' : 'text-soft hover:bg-sunk hover:text-ink'}">
              <Icon size={17} aria-hidden="true" />
              {label}
            </a>
          </li>
        {/each}
      </ul>
    </nav>
  </header>
  <div class="min-w-0">
    {#if !live.connected}
      <p role="status" class="bg-ochre-wash px-6 py-1.5 text-sm text-ochre">Connecting to the service …</p>
    {/if}
    <main id="main" class="mx-auto max-w-6xl px-4 py-6 lg:px-8 lg:py-8">
      {@render children()}
    </main>
  </div>
</div>

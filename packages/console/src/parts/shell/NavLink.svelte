<script lang="ts">
import { pageAt } from '../../pages.js';
import { router } from '../../state/router.svelte.js';
import type { IconComponent } from './places.js';

let {
  to,
  label,
  icon: Icon,
  folded,
}: { to: string; label: string; icon: IconComponent; folded: boolean } = $props();
const here = $derived(to === '/' ? router.path === '/' : router.path === to || router.path.startsWith(`${to}/`));
/** What is pointed at is about to be opened. */
const prepare = () =>
  void pageAt(to)
    .load()
    .catch(() => {});
</script>

<a
  href={to}
  class="nav-link"
  aria-current={here ? 'page' : undefined}
  title={folded ? label : undefined}
  onpointerenter={prepare}
>
  <Icon size={17} class="shrink-0" aria-hidden="true" />
  <span class="shell-word">{label}</span>
</a>

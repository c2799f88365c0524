<script lang="ts">
import Plus from '@lucide/svelte/icons/plus';
import type { Snippet } from 'svelte';
import { actions } from '../../state/actions.svelte.js';
import { router } from '../../state/router.svelte.js';
import { shortcuts } from '../../state/shortcuts.svelte.js';
import PageHead from '../text/PageHead.svelte';

interface Props {
  title: string;
  about: string;
  /** What a new one is called on the button. */
  make?: string;
  onMake?: () => void;
  /** What else can be done. */
  more?: Snippet;
  /** Whether the list can be searched; the words stay in the address. */
  finds?: boolean;
}
/** The head of a list: what it is, how one is made, and words that it is searched by. */
let { title, about, make, onMake, more, finds = true }: Props = $props();
const uid = $props.id();
let field = $state<HTMLInputElement>();
const words = $derived(router.query.get('find') ?? '');
const keep = (find: string) => router.filter({ ...Object.fromEntries(router.query), find });

$effect(() =>
  shortcuts.use(title, [
    ...(onMake && make ? [{ key: 'n', does: make.toLowerCase(), run: () => onMake() }] : []),
    ...(finds ? [{ key: 'f', does: 'filter the list', run: () => field?.focus() }] : []),
  ]),
);
$effect(() => (onMake && make ? actions.use([{ title: make, run: () => onMake() }]) : undefined));
</script>

<PageHead {title} {about}>
  {#snippet actions()}
    {@render more?.()}
    {#if make && onMake}
      <button type="button" class="button button-main" onclick={onMake}>
        <Plus size={16} aria-hidden="true" />
        {make}
      </button>
    {/if}
  {/snippet}
</PageHead>
{#if finds}
  <div class="mb-3">
    <label class="sr-only" for="{uid}-find">Filter</label>
    <input
      id="{uid}-find"
      bind:this={field}
      class="field max-w-72 py-1"
      type="search"
      placeholder="Filter (F)"
      value={words}
      oninput={(event) => keep(event.currentTarget.value)}
    />
  </div>
{/if}

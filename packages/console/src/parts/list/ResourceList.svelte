<script lang="ts" generics="T extends { name: string }">
import type { Snippet } from 'svelte';
import { fits } from '../../state/finding.js';
import { removing } from '../../state/removing.svelte.js';
import type { Resource } from '../../state/resource.svelte.js';
import { router } from '../../state/router.svelte.js';
import type { ThingType } from '../../state/things.js';
import ThingMenu from '../resource/ThingMenu.svelte';
import Loaded from '../text/Loaded.svelte';
import Window from '../text/Window.svelte';
import Empty from './Empty.svelte';
import ListHead from './ListHead.svelte';
import Rows from './Rows.svelte';

interface Props {
  /** The type of resource, from which its menu and removal derive. */
  type: ThingType;
  title: string;
  about: string;
  from: Resource<{ items: T[] }>;
  /** Headings of the cells; the menu has none. */
  headings: string[];
  /** Texts in which the words of the filter are looked for. */
  words: (one: T) => (string | null | undefined)[];
  cells: Snippet<[T]>;
  /** The label of the button that creates one, and what it opens. */
  make?: string;
  form?: Snippet<[close: () => void]>;
  /** A window of its own instead of a form. */
  onMake?: () => void;
  empty: Snippet;
  /** What else stands in the head, above the list, beside the menu of one, and below the list. */
  more?: Snippet;
  above?: Snippet<[T[]]>;
  tools?: Snippet<[T]>;
  /** What restricts the list besides words. */
  shown?: (one: T) => boolean;
}
/** A list of resources of one type: head, filter, rows with their menu, an empty state, and a form for a new one. */
let {
  type,
  title,
  about,
  from,
  headings,
  words,
  cells,
  make,
  form,
  onMake,
  empty,
  more,
  above,
  tools,
  shown = () => true,
}: Props = $props();
// A link with `?new` opens the form for a new one.
let making = $state(router.query.has('new'));
</script>

<ListHead {title} {about} {make} {more} onMake={make ? (onMake ?? (() => (making = true))) : undefined} />
<Loaded {from}>
  {#snippet children({ items })}
    {#if items.length === 0}
      <Empty title="No {title.charAt(0).toLowerCase()}{title.slice(1)} yet">{@render empty()}</Empty>
    {:else}
      {@render above?.(items)}
      <Rows
        label={title}
        headings={[...headings, '']}
        items={items.filter((one) => shown(one) && fits(...words(one)))}
        remove={(one) => void removing.remove(type, one.name)}
      >
        {#snippet row(one)}
          {@render cells(one)}
          <td>
            <span class="flex items-center gap-2">
              {@render tools?.(one)}
              <ThingMenu sort={type} name={one.name} />
            </span>
          </td>
        {/snippet}
      </Rows>
    {/if}
  {/snippet}
</Loaded>
{#if making && form && make}
  <Window bind:open={making} title={make}>{@render form(() => (making = false))}</Window>
{/if}

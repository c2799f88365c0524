<script lang="ts" generics="T">
import type { Snippet } from 'svelte';
import { shortcuts } from '../../state/shortcuts.svelte.js';

interface Props {
  label: string;
  headings: string[];
  items: T[];
  row: Snippet<[T]>;
  /** Takes one out, with the Delete key. */
  remove?: ((item: T) => void) | undefined;
  /** A list that is not the page's own has no keys of its own. */
  keys?: boolean;
}
/**
 * A table of things, with the same keyboard shortcuts everywhere. On a phone each row stands by itself, with the
 * headings beside its cells.
 */
let { label, headings, items, row, remove, keys = true }: Props = $props();
let body = $state<HTMLElement>();
let at = $state(-1);

/** The headings for the style sheet, which puts them beside the cells. */
const names = $derived(
  headings.map((heading, index) => `--heading-${index + 1}: ${JSON.stringify(heading)}`).join('; '),
);

function move(by: number) {
  const rows = [...(body?.children ?? [])] as HTMLElement[];
  if (rows.length === 0) return;
  at = Math.min(rows.length - 1, Math.max(0, at + by));
  const target = rows[at]!;
  (target.querySelector<HTMLElement>('a, button') ?? target).focus();
  target.scrollIntoView({ block: 'nearest' });
}
const press = (selector: string) => body?.children[at]?.querySelector<HTMLElement>(selector)?.click();

$effect(() =>
  keys
    ? shortcuts.use('The list', [
        { key: 'arrowdown', does: 'move down', run: () => move(1) },
        { key: 'arrowup', does: 'move up', run: () => move(-1) },
        { key: 'enter', does: 'open the focused row' },
        { key: 'f2', does: 'rename', run: () => press('[data-rename]') },
        ...(remove
          ? [{ key: 'delete', does: 'remove', run: () => items[at] !== undefined && remove(items[at]!) }]
          : []),
      ])
    : undefined,
);
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div class="rows rows-stacked" role="region" aria-label={label} tabindex="0" style={names}>
  <table>
    <thead>
      <tr>
        {#each headings as heading (heading)}
          <th scope="col"
            >{#if heading}{heading}{:else}<span class="sr-only">Action</span>{/if}</th
          >
        {/each}
      </tr>
    </thead>
    <tbody bind:this={body}>
      {#each items as item, index (item)}
        <tr onfocusin={() => (at = index)}>{@render row(item)}</tr>
      {/each}
    </tbody>
  </table>
</div>

<script lang="ts" generics="T">
import type { Snippet } from 'svelte';

interface Props {
  label: string;
  headings: string[];
  items: T[];
  row: Snippet<[T]>;
}
/** A table of things, which scrolls by itself on narrow screens. */
let { label, headings, items, row }: Props = $props();
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div
  class="relative overflow-x-auto rounded-lg border border-line bg-card"
  role="region"
  aria-label={label}
  tabindex="0"
>
  <table class="w-full text-left">
    <thead>
      <tr class="border-b border-line text-sm text-soft">
        {#each headings as heading (heading)}<th scope="col" class="px-4 py-2 font-medium whitespace-nowrap"
            >{#if heading}{heading}{:else}<span class="sr-only">What to do</span>{/if}</th
          >{/each}
      </tr>
    </thead>
    <tbody
      class="[&>tr]:border-b [&>tr]:border-line [&>tr:last-child]:border-0 [&_td]:px-4 [&_td]:py-2.5 [&_td]:align-top"
    >
      {#each items as item (item)}
        <tr>{@render row(item)}</tr>
      {/each}
    </tbody>
  </table>
</div>

<script lang="ts">
import type { Snippet } from 'svelte';

interface Props {
  title: string;
  onsubmit: () => void;
  children: Snippet;
}
/** A form beside a list, under a heading that names it. */
let { title, onsubmit, children }: Props = $props();
const id = $props.id();
</script>

<section class="panel self-start" aria-labelledby={id}>
  <h2 {id} class="mb-3">{title}</h2>
  <form
    onsubmit={(event) => {
      event.preventDefault();
      onsubmit();
    }}
  >
    {@render children()}
  </form>
</section>

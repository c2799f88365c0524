<script lang="ts">
import Code from '../parts/text/Code.svelte';

/** The JSON of a value, written out only when somebody asks for it. */
let { value, name }: { value: unknown; name: string } = $props();
let open = $state(false);
</script>

<details class="mt-1.5 text-sm" bind:open>
  <summary class="cursor-pointer text-soft">JSON</summary>
  {#if open}<div class="mt-1"><Code text={JSON.stringify(value, null, 2)} label="JSON of {name}" /></div>{/if}
</details>

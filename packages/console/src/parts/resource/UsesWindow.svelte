<script lang="ts">
import { Resource } from '../../state/resource.svelte.js';
import { thingType, type ThingType } from '../../state/things.js';
import Loaded from '../text/Loaded.svelte';
import Window from '../text/Window.svelte';

let { sort, name, open = $bindable() }: { sort: ThingType; name: string; open: boolean } = $props();
// svelte-ignore state_referenced_locally
const uses = new Resource(() => thingType(sort).uses!(name));
</script>

<Window bind:open title="Uses of {name}">
  <Loaded from={uses}>
    {#snippet children({ items })}
      {#if items.length === 0}<p class="text-soft">None. You can remove it without breaking anything.</p>{/if}
      <ul class="list-disc pl-5">
        {#each items as item (item)}<li>{item}</li>{/each}
      </ul>
    {/snippet}
  </Loaded>
</Window>

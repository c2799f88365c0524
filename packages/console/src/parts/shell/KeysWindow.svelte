<script lang="ts">
import { keyWords, shortcuts } from '../../state/shortcuts.svelte.js';
import Window from '../text/Window.svelte';

/** The keys that work here: those of the page first. */
let { open = $bindable() }: { open: boolean } = $props();
</script>

<Window bind:open title="Keys" about="Shortcuts available here. Inside a field, letters are typed as text.">
  {#each shortcuts.groups.toReversed() as group (group)}
    <h3 class="mt-4 mb-1 font-semibold first:mt-0">{group.title}</h3>
    <dl class="keys">
      {#each group.keys as one (one.key)}
        <dt>
          {#each keyWords(one.key).split(' ') as part (part)}<kbd class="key">{part}</kbd>
          {/each}
        </dt>
        <dd>{one.does}</dd>
      {/each}
    </dl>
  {/each}
</Window>

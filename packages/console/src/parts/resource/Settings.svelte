<script lang="ts">
import type { ClientSettings } from '@pindro/contract/light';
import { Tabs } from 'bits-ui';
import Code from '../text/Code.svelte';

/** Settings for each shape of client, ready to paste. */
let { settings, secret }: { settings: ClientSettings[]; secret?: string | undefined } = $props();
let shape = $derived(settings[0]?.shape ?? '');
</script>

<Tabs.Root bind:value={shape}>
  <Tabs.List class="mb-3 flex flex-wrap gap-1 border-b border-line" aria-label="Type of client">
    {#each settings as one (one.shape)}
      <Tabs.Trigger value={one.shape} class="tab">{one.title}</Tabs.Trigger>
    {/each}
  </Tabs.List>
  {#each settings as one (one.shape)}
    <Tabs.Content value={one.shape}>
      <p class="mb-2 text-sm text-soft">{one.about}</p>
      <Code text={one.text} label="settings for {one.title}" {secret} />
    </Tabs.Content>
  {/each}
</Tabs.Root>

<script lang="ts">
import Search from '@lucide/svelte/icons/search';
import type { JsonObject } from '@pindro/core/browser';
import Window from '../../parts/text/Window.svelte';
import { Choices } from '../../toolbox/choices.svelte.js';
import ToolPicker from '../../toolbox/ToolPicker.svelte';

/** Finds the tool that a step calls, among those of all servers. */
let { config, onChange }: { config: JsonObject; onChange: (config: JsonObject) => void } = $props();
const choices = new Choices();
let open = $state(false);
</script>

<button type="button" class="button button-small mb-3" onclick={() => (open = true)}>
  <Search size={15} aria-hidden="true" /> Find a tool
</button>
{#if open}
  <Window bind:open title="Find a tool">
    <ToolPicker
      {choices}
      only={({ from }) => from === 'server'}
      isOn={({ source, tool }) => config.server === source && config.tool === tool}
      onToggle={({ source, tool }) => {
        // What was filled in for another tool does not fit this one.
        const { arguments: given, ...rest } = config;
        const same = config.server === source && config.tool === tool;
        onChange({ ...rest, server: source, tool, ...(same && given !== undefined && { arguments: given }) });
        open = false;
      }}
    />
  </Window>
{/if}

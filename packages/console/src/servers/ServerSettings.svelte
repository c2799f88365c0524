<script lang="ts">
import type { ServerDetail } from '@pindro/contract/light';
import type { JsonObject } from '@pindro/core/browser';
import EditWindow from '../parts/resource/EditWindow.svelte';
import { api } from '../state/api.js';
import { changeOf, settingsOf, settingsSchema } from './settings-schema.js';

/** Address or program of a tool server, its credentials, and its limits. */
let { server, open = $bindable() }: { server: ServerDetail; open: boolean } = $props();
const isProgram = $derived(server.program !== null);
// svelte-ignore state_referenced_locally
const value = settingsOf(server);
const save = (given: JsonObject, skipTest: boolean) =>
  api.updateServer({ name: server.name, body: { ...changeOf(given, isProgram), skipTest } });
</script>

<EditWindow
  bind:open
  title="Tool server {server.name}"
  about="The server is tested before the change is saved."
  schema={settingsSchema(isProgram)}
  {value}
  {save}
  tried
/>

<script lang="ts">
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';
import MakeForm from './MakeForm.svelte';

/** Attaches a tool server. Only one that refuses is asked a key for. */
let { onMade }: { onMade: (name: string) => void } = $props();
const uid = $props.id();
let name = $state('');
let url = $state('');
let secret = $state('');
let asked = $state(false);
const attach = new Action(async () => {
  const attached = await api.attachServer({ body: { name, url, ...(secret && { secret }) } });
  onMade(attached.name);
});
$effect(() => {
  if (attach.problem?.code !== 'server_wants_key') return;
  asked = true;
  if (secret === '')
    attach.problem = {
      ...attach.problem,
      code: 'asked',
      title: 'The server wants a key',
      hint: 'Give its bearer key and try again.',
    };
});
</script>

<MakeForm action={attach} use="Test and attach" busy="Asking it for its tools …" ready={name !== '' && url !== ''}>
  <label class="label" for="{uid}-name">Name</label>
  <input id="{uid}-name" class="field mb-3" bind:value={name} required placeholder="lift" autocomplete="off" />
  <label class="label" for="{uid}-url">Address</label>
  <input
    id="{uid}-url"
    class="field mb-3"
    bind:value={url}
    required
    type="url"
    placeholder="http://127.0.0.1:9000/mcp"
  />
  {#if asked}
    <label class="label" for="{uid}-secret">Its bearer key</label>
    <!-- svelte-ignore a11y_autofocus -->
    <input
      id="{uid}-secret"
      class="field mb-1"
      type="password"
      autocomplete="off"
      bind:value={secret}
      required
      autofocus
    />
    <p class="hint mb-3">Sealed at once and never shown again. Leave out the word Bearer.</p>
  {/if}
</MakeForm>

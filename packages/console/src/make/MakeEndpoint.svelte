<script lang="ts">
import { api } from '../state/api.js';
import { words } from '../state/format.js';
import { Action } from '../state/resource.svelte.js';
import MakeForm from './MakeForm.svelte';

let { onMade }: { onMade: (name: string) => void } = $props();
const uid = $props.id();
let name = $state('');
const make = new Action(async () => {
  await api.createEndpoint({ body: { document: { format: 'pindro/endpoint@1', name, title: words(name) } } });
  onMade(name);
});
</script>

<MakeForm action={make} use="Create" ready={name !== ''}>
  <label class="label" for="{uid}-name">Name in its address</label>
  <input id="{uid}-name" class="field mb-3 font-mono" bind:value={name} required placeholder="wardens" />
</MakeForm>

<script lang="ts">
import { api } from '../state/api.js';
import { Action, Resource } from '../state/resource.svelte.js';
import MakeForm from './MakeForm.svelte';

interface Props {
  onMade: (name: string) => void;
  use?: string;
  nested?: boolean;
}
let { onMade, use = 'Test and add', nested = false }: Props = $props();
const uid = $props.id();
const EMPTY = { name: '', base: '', dialect: 'chat-completions', model: '', credential: '', header: '', value: '' };
let given = $state({ ...EMPTY });
const dialects = new Resource(() => api.listDialects(), ['model']);
const key = $derived(dialects.value?.items.find(({ name }) => name === given.dialect)?.key);
const credentials = new Resource(() => api.listCredentials(), ['credential']);
const add = new Action(async () => {
  const { name, base, dialect, model, credential, header, value } = given;
  const settings = header ? { headers: { [header]: value } } : {};
  await api.addModel({ body: { name, base, dialect, model, settings, ...(credential && { credential }) } });
  given = { ...EMPTY };
  onMade(name);
});
</script>

<MakeForm action={add} {use} {nested} busy="Testing …" ready={given.name !== '' && given.base !== ''}>
  <label class="label" for="{uid}-name">Name</label>
  <input id="{uid}-name" class="field mb-3" bind:value={given.name} required placeholder="house" />
  <label class="label" for="{uid}-base">Base address</label>
  <input
    id="{uid}-base"
    class="field mb-3"
    type="url"
    bind:value={given.base}
    required
    placeholder="http://127.0.0.1:9100/v1"
  />
  <label class="label" for="{uid}-dialect">Wire format</label>
  <select id="{uid}-dialect" class="field mb-1" bind:value={given.dialect} aria-describedby="{uid}-key">
    {#each dialects.value?.items ?? [{ name: 'chat-completions' }] as one (one.name)}
      <option value={one.name}>{one.name}</option>
    {/each}
  </select>
  <p id="{uid}-key" class="mb-3 text-sm text-soft">
    Its servers usually expect the key {key ?? 'as a bearer credential'}.
  </p>
  <label class="label" for="{uid}-model">Model name</label>
  <input id="{uid}-model" class="field mb-3" bind:value={given.model} required />
  <label class="label" for="{uid}-credential">
    Credential <span class="field-optional">(if it requires one)</span>
  </label>
  <select id="{uid}-credential" class="field mb-3" bind:value={given.credential}>
    <option value="">none</option>
    {#each credentials.value?.items ?? [] as one (one.name)}<option value={one.name}>{one.name}</option>{/each}
  </select>
  <details class="mb-3">
    <summary class="cursor-pointer text-soft">Additional header</summary>
    <label class="label mt-2" for="{uid}-header">Name of the header</label>
    <input id="{uid}-header" class="field mb-3" bind:value={given.header} />
    <label class="label" for="{uid}-value">Its value</label>
    <input id="{uid}-value" class="field" bind:value={given.value} />
  </details>
</MakeForm>

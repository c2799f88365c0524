<script lang="ts">
import type { ModelSummary } from '@pindro/contract/light';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import MakeModel from '../make/MakeModel.svelte';
import EditWindow from '../parts/resource/EditWindow.svelte';
import NameCell from '../parts/list/NameCell.svelte';
import ResourceList from '../parts/list/ResourceList.svelte';
import Problem from '../parts/text/Problem.svelte';
import State from '../parts/text/State.svelte';
import When from '../parts/text/When.svelte';
import { api } from '../state/api.js';
import { Action, Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

const models = new Resource(() => api.listModels(), ['model']);
let chosen = $state(router.query.get('open'));
const opened = $derived(models.value?.items.find((one) => one.name === chosen));
const test = new Action(async (name: string) => ({ name, ...(await api.testModel({ name })) }));

const dialects = new Resource(() => api.listDialects(), ['model']);
const schema = $derived<JsonSchema>({
  type: 'object',
  required: ['dialect', 'base', 'model'],
  properties: {
    base: { type: 'string', title: 'Base address' },
    dialect: {
      enum: dialects.value?.items.map(({ name }) => name) ?? [],
      title: 'Wire format',
      description: 'Wire format of the server',
    },
    model: { type: 'string', title: 'Model name' },
    credential: { form: 'credential', title: 'Credential', description: 'Credential to send, if any' },
    keys: {
      type: 'array',
      items: { form: 'credential' },
      title: 'Additional keys',
      description: 'Credentials used in rotation with the first',
    },
    fallback: {
      form: 'model',
      title: 'Fallback',
      description: 'Connection to use when this connection fails',
    },
    settings: { ...(dialects.value?.settings as JsonObject), title: 'Settings' },
  },
});
const given = ({ dialect, base, model, credential, keys, fallback, settings }: ModelSummary): JsonObject => ({
  ...{ dialect, base, model },
  ...(credential && { credential }),
  ...(keys.length > 0 && { keys }),
  ...(fallback && { fallback }),
  ...(Object.keys(settings).length > 0 && { settings: settings as JsonObject }),
});
const save = (name: string) => (value: JsonObject, skipTest: boolean) =>
  api.updateModel({
    name,
    body: {
      ...value,
      credential: (value.credential as string) ?? null,
      keys: (value.keys as string[]) ?? [],
      fallback: (value.fallback as string) ?? null,
      settings: (value.settings ?? {}) as JsonObject,
      skipTest,
    },
  });
</script>

<ResourceList
  type="model"
  title="Model connections"
  about="Connections to language models. Agents refer to a connection by name, so you can change the model behind it."
  from={models}
  headings={['Connection', 'Model', 'Wire format', 'Last tested']}
  words={(one) => [one.name, one.model, one.base]}
  make="Add connection"
>
  {#snippet empty()}
    Enter an address and the name of a model. The connection is tested before it is saved.
  {/snippet}
  {#snippet above()}
    <div aria-live="polite" class="mb-3">
      {#if test.problem}<Problem problem={test.problem} />{/if}
      {#if test.result}
        <p>{test.result.name} responded in {test.result.milliseconds} ms: “{test.result.answer}”</p>
        <p class={test.result.tools.works ? 'text-soft' : 'text-ochre'}>{test.result.tools.says}</p>
      {/if}
    </div>
  {/snippet}
  {#snippet cells(one)}
    <td>
      <NameCell sort="model" name={one.name} onOpen={() => (chosen = one.name)} />
      <span class="block font-mono text-sm text-soft">{one.base}</span>
    </td>
    <td>{one.model}</td>
    <td class="text-soft">{one.dialect}</td>
    <td>
      {#if one.trouble}
        <State state="unreachable" label="failing" />
        <p class="mt-1 max-w-xs text-sm text-rowan">{one.trouble}</p>
      {:else}
        <span class="text-soft"><When at={one.testedAt} /></span>
      {/if}
    </td>
  {/snippet}
  {#snippet tools(one)}
    <button
      type="button"
      class="button button-small"
      disabled={test.busy}
      aria-label="Test {one.name}"
      onclick={() => void test.run(one.name)}>Test</button
    >
  {/snippet}
  {#snippet form(close)}<MakeModel onMade={close} />{/snippet}
</ResourceList>
{#if opened && dialects.value}
  <EditWindow
    bind:open={() => true, () => (chosen = null)}
    title="Model connection {opened.name}"
    about="The connection is tested before the change is saved."
    {schema}
    value={given(opened)}
    save={save(opened.name)}
    tried
  />
{/if}

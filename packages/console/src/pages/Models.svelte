<script lang="ts">
import type { ModelSummary } from '@pindro/contract/light';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import MakeModel from '../make/MakeModel.svelte';
import EditWindow from '../parts/EditWindow.svelte';
import Empty from '../parts/Empty.svelte';
import ListHead from '../parts/ListHead.svelte';
import Loaded from '../parts/Loaded.svelte';
import NameCell from '../parts/NameCell.svelte';
import Problem from '../parts/Problem.svelte';
import Rows from '../parts/Rows.svelte';
import State from '../parts/State.svelte';
import ThingMenu from '../parts/ThingMenu.svelte';
import When from '../parts/When.svelte';
import Window from '../parts/Window.svelte';
import { api } from '../state/api.js';
import { fits } from '../state/finding.js';
import { removing } from '../state/removing.svelte.js';
import { Action, Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

const models = new Resource(() => api.listModels(), ['model']);
// A link with `?new` opens the form for a new one.
let making = $state(router.query.has('new'));
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
      description: 'How what runs there speaks',
    },
    model: { type: 'string', title: 'Name of the model there' },
    credential: { form: 'credential', title: 'Credential', description: 'What goes along, if anything' },
    keys: {
      type: 'array',
      items: { form: 'credential' },
      title: 'Further keys',
      description: 'Credentials that take turns with the first',
    },
    fallback: {
      form: 'model',
      title: 'Fallback',
      description: 'Which connection is asked where this one cannot answer',
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
const save = (name: string) => (value: JsonObject, untested: boolean) =>
  api.changeModel({
    name,
    body: {
      ...value,
      credential: (value.credential as string) ?? null,
      keys: (value.keys as string[]) ?? [],
      fallback: (value.fallback as string) ?? null,
      settings: (value.settings ?? {}) as never,
      untested,
    },
  });
</script>

<ListHead
  title="Model connections"
  about="Where a language model answers. Agents name a connection, so that the model behind it can change."
  make="Add a connection"
  onMake={() => (making = true)}
/>
<div aria-live="polite" class="mb-3">
  {#if test.problem}<Problem problem={test.problem} />{/if}
  {#if test.result}
    <p>{test.result.name} answered in {test.result.milliseconds} ms: “{test.result.answer}”</p>
    <p class={test.result.tools.works ? 'text-soft' : 'text-ochre'}>{test.result.tools.says}</p>
  {/if}
</div>
<Loaded from={models}>
  {#snippet children({ items })}
    {#if items.length === 0}
      <Empty title="No model connection yet">
        Give an address and the name of a model. It is asked one short question before it is kept.
      </Empty>
    {:else}
      <Rows
        label="Model connections"
        headings={['Connection', 'Model', 'Wire format', 'Last tested', '']}
        items={items.filter((one) => fits(one.name, one.model, one.base))}
        remove={(one) => void removing.remove('model', one.name)}
      >
        {#snippet row(one)}
          <td>
            <NameCell sort="model" name={one.name} onOpen={() => (chosen = one.name)} />
            <span class="block font-mono text-sm text-soft">{one.base}</span>
          </td>
          <td>{one.model}</td>
          <td class="text-soft">{one.dialect}</td>
          <td>
            {#if one.trouble}
              <State state="unreachable" label="in trouble" />
              <p class="mt-1 max-w-xs text-sm text-rowan">{one.trouble}</p>
            {:else}
              <span class="text-soft"><When at={one.testedAt} /></span>
            {/if}
          </td>
          <td>
            <span class="flex gap-1">
              <button
                type="button"
                class="button button-small"
                disabled={test.busy}
                aria-label="Test {one.name}"
                onclick={() => void test.run(one.name)}>Test</button
              >
              <ThingMenu sort="model" name={one.name} />
            </span>
          </td>
        {/snippet}
      </Rows>
    {/if}
  {/snippet}
</Loaded>
{#if making}
  <Window bind:open={making} title="Add a connection"><MakeModel onMade={() => (making = false)} /></Window>
{/if}
{#if opened && dialects.value}
  <EditWindow
    bind:open={() => true, () => (chosen = null)}
    title="Model connection {opened.name}"
    about="It is asked one short question before the change is kept."
    {schema}
    value={given(opened)}
    save={save(opened.name)}
    tried
  />
{/if}

<script lang="ts">
import type { FlowDetail } from '@pindro/contract/light';
import { type FlowDocument, isObject, type JsonObject, type JsonSchema } from '@pindro/core/browser';
import Fields from '../../forms/Fields.svelte';
import type { FieldPlace } from '../../forms/place.js';
import { reachable } from '../../forms/reach.js';
import Code from '../../parts/text/Code.svelte';
import Problem from '../../parts/text/Problem.svelte';
import Settings from '../../parts/resource/Settings.svelte';
import Window from '../../parts/text/Window.svelte';
import { api } from '../../state/api.js';
import { words } from '../../state/format.js';
import { Action, Resource } from '../../state/resource.svelte.js';
import { Editor } from '../session/session.svelte.js';

/** One step, some of its fields asked of the caller, a name and words: a tool, published and exposed in one go. */
let { open = $bindable() }: { open: boolean } = $props();
const uid = $props.id();
const kinds = new Resource(() => api.listKinds());
const NOT_ALONE = ['choose', 'each', 'answer', 'stop', 'wait', 'approve'];
let kind = $state('http');
let name = $state('');
let description = $state('');
let caller = $state('first-client');
let editor = $state.raw<Editor | null>(null);
const flowName = $derived(name.replaceAll('_', '-'));
const chosen = $derived(kinds.value?.items.find((one) => one.name === kind));
const config = $derived(editor && isObject(editor.document.steps.do?.with) ? editor.document.steps.do.with : {});
const inputs = $derived(
  Object.keys(isObject(editor?.document.input?.properties) ? editor.document.input.properties : {}),
);

const begin = new Action(async () => {
  const document = {
    format: 'pindro/flow@1',
    name: flowName,
    description,
    labels: ['quick tool'],
    steps: { do: { kind, with: {} } },
    result: '${ steps.do }',
  };
  const { items } = await api.listFlows();
  if (items.some((flow) => flow.name === flowName))
    throw new Error(`A flow named "${flowName}" already exists. Choose another name.`);
  await api.saveDraft({ name: flowName, body: { document: document } });
  const fresh = new Editor(flowName, (await api.getFlow({ name: flowName })) as FlowDetail);
  editor = fresh;
});
const expose = new Action(async () => {
  await editor!.save();
  return api.exposeFlow({ name: flowName, body: { tool: name, description, caller } });
});
const place = $derived<FieldPlace | null>(
  editor && {
    editor,
    expressions: true,
    lastInput: undefined,
    lastOutputs: {},
    mistakesAt: () => [],
    isCalm: (mistake) => mistake.missing === true,
    begun: () => {},
    config,
    root: ['steps', 'do', 'with'],
    data: reachable({
      input: editor.document.input ?? {},
      before: [],
      lastInput: undefined,
      lastOutputs: {},
      inLoop: false,
    }),
  },
);
function change(next: JsonObject, field: string) {
  editor!.change('do', { with: next } as Partial<FlowDocument['steps'][string]>, field);
}
</script>

<Window
  bind:open
  title="Quick tool"
  about="One step as a tool for models: published, on an endpoint, with a key for one client."
>
  {#if expose.result}
    <p class="font-semibold text-spruce">
      Tool {expose.result.tool} is on endpoint {expose.result.endpoint.name}.
    </p>
    <p class="mt-3 mb-2 text-sm text-soft">The key is shown only once. The settings below contain it.</p>
    <Code text={expose.result.key} label="key" />
    <div class="mt-4"><Settings settings={expose.result.settings} /></div>
    <p class="mt-4"><a class="link" href="/flows/{flowName}">Open as flow</a></p>
  {:else if editor && place && chosen}
    <p class="mb-4 text-soft">
      Fill in what never changes. For values from the model, choose “Caller or model” in “Supplied by”.
      {#if inputs.length > 0}
        Supplied by the caller: {inputs.join(', ')}.{/if}
    </p>
    <Fields
      id={uid}
      schema={chosen.schema as JsonSchema}
      value={config}
      path={['steps', 'do', 'with']}
      {place}
      plainFields={chosen.plain}
      onChange={change}
    />
    <label class="label" for="{uid}-caller">On whose behalf the key calls</label>
    <input id="{uid}-caller" class="field mb-4" bind:value={caller} required />
    {#if expose.problem}<div class="mb-4"><Problem problem={expose.problem} /></div>{/if}
    <button type="button" class="button button-main" disabled={expose.busy} onclick={() => void expose.run()}
      >{expose.busy ? 'Exposing …' : 'Publish and expose'}</button
    >
  {:else}
    <form
      onsubmit={(event) => {
        event.preventDefault();
        void begin.run();
      }}
    >
      <label class="label" for="{uid}-kind">Step kind</label>
      <select id="{uid}-kind" class="field mb-4" bind:value={kind}
        >{#each (kinds.value?.items ?? []).filter((one) => !NOT_ALONE.includes(one.name)) as one (one.name)}<option
            value={one.name}>{one.title}: {one.about}</option
          >{/each}</select
      >
      <label class="label" for="{uid}-name">Name of the tool</label>
      <input
        id="{uid}-name"
        class="field mb-4 font-mono"
        bind:value={name}
        required
        pattern="[a-z][a-z0-9]*(_[a-z0-9]+)*"
        title="Lower-case letters, digits and single _, starting with a letter"
        placeholder={words('check stock').replaceAll(' ', '_')}
      />
      <label class="label" for="{uid}-about">Description</label>
      <textarea id="{uid}-about" class="field mb-4" rows="3" bind:value={description} required></textarea>
      {#if begin.problem}<div class="mb-4"><Problem problem={begin.problem} /></div>{/if}
      <button class="button button-main" disabled={begin.busy}>{begin.busy ? 'Creating …' : 'Continue'}</button>
    </form>
  {/if}
</Window>

<script lang="ts">
import { addStep, type FlowDocument, type JsonObject } from '@pindro/core/browser';
import Problem from '../parts/text/Problem.svelte';
import Window from '../parts/text/Window.svelte';
import { api } from '../state/api.js';
import { Action, Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

interface Props {
  server: string;
  tool: string;
  args: JsonObject;
  open: boolean;
}
/** Puts a call that was tried into a flow, as its last step. */
let { server, tool, args, open = $bindable() }: Props = $props();
const uid = $props.id();
const flows = new Resource(() => api.listFlows(), ['flow']);
let flow = $state('');
const put = new Action(async () => {
  const { document, version } = await api.getFlow({ name: flow });
  if (!document) throw new Error(`The draft of ${flow} cannot be parsed; fix it first.`);
  const last = Object.keys((document as unknown as FlowDocument).steps).at(-1);
  const made = addStep(document as unknown as FlowDocument, [], 'tool', {
    with: { server, tool, ...(Object.keys(args).length > 0 && { arguments: args }) },
    ...(last !== undefined && { after: { from: last, branch: null } }),
  });
  await api.saveDraft({ name: flow, body: { document: made.document, version } });
  open = false;
  router.go(`/flows/${flow}?step=${made.name}`);
});
</script>

<Window bind:open title="Create a step" about="{tool} of {server}from this call, at the end of a flow.">
  <form
    onsubmit={(event) => {
      event.preventDefault();
      void put.run();
    }}
  >
    <label class="label" for="{uid}-flow">Flow</label>
    <select id="{uid}-flow" class="field mb-4" bind:value={flow} required>
      <option value="" disabled>choose one</option>
      {#each flows.value?.items ?? [] as one (one.name)}<option value={one.name}>{one.title || one.name}</option
        >{/each}
    </select>
    {#if put.problem}<div class="mb-3"><Problem problem={put.problem} /></div>{/if}
    <button class="button button-main" disabled={put.busy || flow === ''}
      >{put.busy ? 'Adding …' : 'Add to the flow'}</button
    >
  </form>
</Window>

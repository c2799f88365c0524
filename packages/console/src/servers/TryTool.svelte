<script lang="ts">
import X from '@lucide/svelte/icons/x';
import type { ServerDetail, ServerSample } from '@pindro/contract/light';
import {
  asRules,
  type JsonObject,
  type JsonSchema,
  rulesFor,
  seenSchema,
  suppliedByServer,
  supplierWords,
} from '@pindro/core/browser';
import SchemaForm from '../forms/SchemaForm.svelte';
import { sourceOfArgument } from '../forms/value-source.js';
import Problem from '../parts/text/Problem.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';
import Value from '../values/Value.svelte';
import AsStep from './CreateStep.svelte';
import { localProblem } from '../state/local-problem.js';

interface Props {
  server: ServerDetail;
  tool: ServerDetail['toolList'][number];
  samples: ServerSample[];
}
/** Calls a tool by hand. What one sent may be kept, sent again, and become a step of a flow. */
let { server, tool, samples }: Props = $props();
const uid = $props.id();
let input = $state.raw<JsonObject>({});
const rules = $derived(rulesFor(tool, asRules(server.rules)));
const schema = $derived(seenSchema(tool.inputSchema as JsonSchema, rules));
/** What each call gets that is not asked for. */
const set = $derived(
  suppliedByServer(Object.keys(rules), rules).map(([name, one]) => `${name} = ${supplierWords(one, null)}`),
);
const source = (argument: string) =>
  sourceOfArgument(
    server.name,
    tool.name,
    argument,
    input,
    server.toolList.map((one) => ({
      ...{ name: one.name, schema: one.inputSchema as JsonSchema, annotations: one.annotations },
    })),
  );
let name = $state('');
let making = $state(false);
const call = new Action(() =>
  api.callServerTool({ name: server.name, tool: tool.name, body: { arguments: input } }),
);
const keep = new Action(async () => {
  await api.saveServerSample({ name: server.name, body: { tool: tool.name, name: name.trim(), arguments: input } });
  name = '';
});
const forget = new Action((id: number) => api.deleteServerSample({ name: server.name, id: String(id) }));

function again(sample: ServerSample) {
  input = sample.arguments as JsonObject;
  void call.run();
}
</script>

{#if samples.length > 0}
  <ul class="mb-4 flex flex-wrap gap-2" aria-label="Saved calls of {tool.name}">
    {#each samples as sample (sample.id)}
      <li class="chip flex items-center gap-1">
        <button type="button" class="link" onclick={() => again(sample)}>{sample.name}</button>
        <button type="button" aria-label="Remove {sample.name}" onclick={() => void forget.run(sample.id)}
          ><X size={14} aria-hidden="true" /></button
        >
      </li>
    {/each}
  </ul>
{/if}
<form
  onsubmit={(event) => {
    event.preventDefault();
    void call.run();
  }}
>
  {#key input}<SchemaForm {schema} bind:value={input} {source} />{/key}
  {#if set.length > 0}
    <p class="mb-3 text-sm text-soft">
      Supplied by argument rules of the server: {set.join(', ')}.
    </p>
  {/if}
  <button class="button button-main" disabled={call.busy}>{call.busy ? 'Calling …' : 'Call'}</button>
</form>
<div class="mt-3" aria-live="polite">
  {#if call.problem}<Problem problem={call.problem} />{/if}
  {#if call.result?.isError}
    <Problem problem={localProblem(call.result.text, 'The tool returned this error.')} />
  {:else if call.result}
    <p class="mb-1 text-sm text-soft">Responded in {call.result.milliseconds} ms</p>
    <Value value={call.result.data ?? call.result.text} name="answer" />
  {/if}
</div>
{#if call.result}
  <form
    class="mt-4 flex flex-wrap items-end gap-2"
    onsubmit={(event) => {
      event.preventDefault();
      void keep.run();
    }}
  >
    <div>
      <label class="label" for="{uid}-name">Save this call as</label>
      <input
        id="{uid}-name"
        class="field py-1"
        bind:value={name}
        required
        autocomplete="off"
        placeholder="a name"
      />
    </div>
    <button class="button button-small" disabled={keep.busy || name.trim() === ''}>Save</button>
    <button type="button" class="button button-small" onclick={() => (making = true)}>Create a step …</button>
  </form>
  {#if keep.problem}<div class="mt-2"><Problem problem={keep.problem} /></div>{/if}
{/if}
{#if making}<AsStep server={server.name} tool={tool.name} args={input} bind:open={making} />{/if}

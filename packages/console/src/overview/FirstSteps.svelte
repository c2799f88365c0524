<script lang="ts">
import NewFlow from '../parts/resource/NewFlow.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';
import FirstStepList from './FirstStepList.svelte';
import type { Status } from './status.js';

/** From nothing to a client that calls, and to an agent that uses a tool server; each gone once all of it is done. */
let { status }: { status: Status } = $props();
const keys = new Resource(() => api.listKeys(), ['key', 'client', 'run']);
const flows = new Resource(() => api.listFlows(), ['flow', 'endpoint']);
let making = $state(false);

const firstFlow = $derived(flows.value?.items[0]);
const exposed = $derived(flows.value?.items.find((flow) => flow.endpoints.length > 0));
const called = $derived(
  keys.value?.items.some((key) => key.endpoints.length > 0 && key.lastUsedAt !== null) ?? true,
);
const known = $derived(keys.value !== undefined && flows.value !== undefined);
const steps = $derived([
  {
    title: 'Draw a flow',
    about: 'Start from a template or an empty flow, and try it next to the canvas.',
    done: status.flows > 0,
  },
  {
    title: 'Expose it as a tool',
    about: 'One click publishes it, adds it to an endpoint, and issues a key.',
    done: exposed !== undefined,
  },
  {
    title: 'Connect a client',
    about: 'Paste its settings. The endpoint shows when it calls, and tests the connection if it does not.',
    done: called,
  },
]);
const next = $derived(steps.findIndex((step) => !step.done));
/** The other half: a tool server that an agent uses, up to the first trace. */
const chats = new Resource(() => api.listRuns({ query: { entry: 'chat', limit: 1 } }), ['run']);
const agentSteps = $derived([
  {
    title: 'Attach a tool server',
    about: 'Paste its address or settings; it is tested before it is saved.',
    done: status.servers.length > 0,
    to: '/servers?new=1',
    label: 'Attach a tool server',
  },
  {
    title: 'Add a model',
    about: 'Its address, its name and a credential.',
    done: status.models.length > 0,
    to: '/models?new=1',
    label: 'Add a model',
  },
  {
    title: 'Draw an agent and chat with it',
    about: 'Choose its tools, send a message, and open the run to see each call.',
    done: (chats.value?.items.length ?? 0) > 0,
    to: '/flows?new=agent',
    label: 'New agent',
  },
]);
const nextOfAgent = $derived(agentSteps.findIndex((step) => !step.done));
</script>

{#if known && next >= 0}
  <FirstStepList id="first-steps" title="Serve a flow to a client" {steps} {next}>
    {#snippet action(index)}
      {#if index === 0}
        <button type="button" class="button button-main button-small" onclick={() => (making = true)}>
          New flow
        </button>
      {:else if index === 1}
        <a class="button button-main button-small" href="/flows/{firstFlow?.name}">Open {firstFlow?.title}</a>
      {:else}
        <a class="button button-main button-small" href="/endpoints/{exposed?.endpoints[0]}?view=connect">
          View settings
        </a>
      {/if}
    {/snippet}
  </FirstStepList>
{/if}
{#if known && chats.value && nextOfAgent >= 0}
  <FirstStepList id="first-agent" title="Use a tool server in an agent" steps={agentSteps} next={nextOfAgent}>
    {#snippet action(index)}
      <a class="button button-small" href={agentSteps[index]!.to}>{agentSteps[index]!.label}</a>
    {/snippet}
  </FirstStepList>
{/if}
{#if making}<NewFlow bind:open={making} />{/if}

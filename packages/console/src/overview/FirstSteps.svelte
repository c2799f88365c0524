<script lang="ts">
import CircleCheck from '@lucide/svelte/icons/circle-check';
import NewFlow from '../parts/NewFlow.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';
import type { Status } from './status.js';

/** From nothing to a client that calls, in three steps; gone once all are done. */
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
    about: 'Begin with a starter or from nothing, and try it beside the canvas.',
    done: status.flows > 0,
  },
  {
    title: 'Expose it as a tool',
    about: 'One press publishes it, puts it on an endpoint, and makes a key.',
    done: exposed !== undefined,
  },
  {
    title: 'Connect a client',
    about: 'Paste its settings; the endpoint tells when it calls, and tests the connection if it does not.',
    done: called,
  },
]);
const next = $derived(steps.findIndex((step) => !step.done));
</script>

{#if known && next >= 0}
  <section class="panel mb-6" aria-labelledby="first-steps">
    <h2 id="first-steps" class="mb-3">From nothing to a client that calls</h2>
    <ol class="grid gap-4 lg:grid-cols-3">
      {#each steps as step, index (step.title)}
        <li class="first-step" class:first-step-done={step.done}>
          <span class="first-step-number" aria-hidden="true">
            {#if step.done}<CircleCheck size={20} />{:else}{index + 1}{/if}
          </span>
          <div>
            <p class="font-semibold">
              {step.title}{#if step.done}<span class="sr-only">, done</span>{/if}
            </p>
            <p class="text-sm text-soft">{step.about}</p>
            {#if index === next}
              <p class="mt-2">
                {#if index === 0}
                  <button type="button" class="button button-main button-small" onclick={() => (making = true)}>
                    New flow
                  </button>
                {:else if index === 1}
                  <a class="button button-main button-small" href="/flows/{firstFlow?.name}"
                    >Open {firstFlow?.title}</a
                  >
                {:else}
                  <a class="button button-main button-small" href="/endpoints/{exposed?.endpoints[0]}?view=connect">
                    See the settings
                  </a>
                {/if}
              </p>
            {/if}
          </div>
        </li>
      {/each}
    </ol>
  </section>
{/if}
{#if making}<NewFlow bind:open={making} />{/if}

<script lang="ts">
import CircleCheck from '@lucide/svelte/icons/circle-check';
import CircleMinus from '@lucide/svelte/icons/circle-minus';
import CircleX from '@lucide/svelte/icons/circle-x';
import type { EndpointDetail } from '@pindro/contract/light';
import Problem from '../parts/text/Problem.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';

/** Pindro connects to itself as a stranger would, and says which part fails. */
let { endpoint }: { endpoint: EndpointDetail } = $props();
const uid = $props.id();
let presented = $state('');
const test = new Action(() =>
  api.testEndpoint({ name: endpoint.name, body: presented.trim() ? { key: presented.trim() } : {} }),
);
const LOOKS = {
  passed: { icon: CircleCheck, color: 'text-spruce' },
  failed: { icon: CircleX, color: 'text-rowan' },
  'not tested': { icon: CircleMinus, color: 'text-soft' },
};
</script>

<section class="panel">
  <h2>Connection problems</h2>
  <p class="mt-1 mb-3 text-soft">
    Pindro can connect to itself like an external client and report what fails. To test the key in the client's
    settings, paste it here.
  </p>
  <form
    class="flex flex-wrap items-end gap-2"
    onsubmit={(event) => {
      event.preventDefault();
      void test.run();
    }}
  >
    {#if endpoint.access !== 'open'}<div class="min-w-64 grow">
        <label class="label" for="{uid}-key">Key in the settings (optional)</label><input
          id="{uid}-key"
          class="field font-mono"
          type="password"
          autocomplete="off"
          bind:value={presented}
          placeholder="a temporary key by default"
        />
      </div>{/if}
    <button class="button button-main" disabled={test.busy}
      >{test.busy ? 'Connecting …' : 'Test the connection'}</button
    >
  </form>
  {#if test.problem}<div class="mt-3"><Problem problem={test.problem} /></div>{/if}
  {#if test.result}
    <ol class="mt-4 space-y-2" aria-label="Self-test">
      {#each test.result.steps as step (step.what)}
        {@const Look = LOOKS[step.state]}
        <li class="flex items-start gap-3">
          <Look.icon size={19} class="mt-0.5 shrink-0 {Look.color}" aria-hidden="true" /><span
            ><span class="font-medium">{step.what}</span><span class="sr-only">: {step.state}</span
            >{#if step.found}<span class="block text-soft wrap-anywhere">{step.found}</span>{/if}{#if step.fix}<span
                class="block font-medium text-rowan">{step.fix}</span
              >{/if}</span
          >
        </li>
      {/each}
    </ol>
    <p class="mt-3 font-semibold {test.result.ok ? 'text-spruce' : 'text-rowan'}" role="status">
      {test.result.ok ? 'A client can connect.' : 'A client cannot connect.'}
    </p>
  {/if}
  <details class="mt-4">
    <summary class="cursor-pointer font-medium">Checklist for the client</summary>
    <ol class="mt-2 list-decimal space-y-1 pl-6 text-soft">
      <li>Was the client quit completely and restarted after its settings changed?</li>
      <li>Are the settings valid JSON? A trailing comma breaks most clients.</li>
      <li>Do the settings contain the whole address, with the port and /mcp/{endpoint.name}?</li>
      <li>Is the header “Authorization: Bearer KEY”, with the scheme Bearer?</li>
      <li>
        Does the client support Streamable HTTP? If not, use the older transport, or the settings with a command.
      </li>
      <li>
        Is the client on this machine? Otherwise the service must listen on more than 127.0.0.1 and know its public
        address.
      </li>
    </ol>
  </details>
</section>

<script lang="ts">
import type { EndpointDetail } from '@pindro/contract/light';
import { isObject } from '@pindro/core/browser';
import Problem from '../parts/text/Problem.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';
import IconField from './IconField.svelte';

/** Description of an endpoint, and who may use it. */
let { endpoint }: { endpoint: EndpointDetail } = $props();

const uid = $props.id();
// svelte-ignore state_referenced_locally
let given = $state({
  title: endpoint.title,
  description: endpoint.description,
  instructions: endpoint.instructions,
  access: endpoint.access,
  icon: endpoint.icon ?? '',
  bodyLimit: limitOf(endpoint),
});
function limitOf({ document }: EndpointDetail): string {
  return isObject(document) && typeof document.body_limit === 'string' ? document.body_limit : '1MiB';
}
const save = new Action(() => api.updateEndpoint({ name: endpoint.name, body: given }));
</script>

<form
  class="panel mb-6 space-y-4"
  onsubmit={(event) => {
    event.preventDefault();
    void save.run();
  }}
>
  <div>
    <label class="label" for="{uid}-title">Title</label><input
      id="{uid}-title"
      class="field"
      bind:value={given.title}
    />
  </div>
  <div>
    <label class="label" for="{uid}-description">Description for people</label><textarea
      id="{uid}-description"
      class="field"
      rows="2"
      bind:value={given.description}></textarea>
  </div>
  <div>
    <label class="label" for="{uid}-instructions">Instructions for the connecting model</label><textarea
      id="{uid}-instructions"
      class="field"
      rows="3"
      bind:value={given.instructions}></textarea>
    <p class="text-sm text-soft">Put rules for all tools here, not into each description.</p>
  </div>
  <IconField label="Icon" value={given.icon || null} change={(icon) => (given.icon = icon)} />
  <fieldset>
    <legend class="label">Access</legend>
    <label class="flex items-baseline gap-2"
      ><input type="radio" bind:group={given.access} value="keys" /> Holders of a key for it</label
    >
    <label class="flex items-baseline gap-2"
      ><input type="radio" bind:group={given.access} value="open" /> Anybody who reaches its address</label
    >
    {#if given.access === 'open'}<p
        class="mt-2 rounded-md border border-rowan bg-rowan-wash p-3 text-rowan"
        role="note"
      >
        <strong>Every tool on it can then be called without a key</strong>, without a caller. It answers only on
        this machine, unless the service was started with --open-to-all.
      </p>{/if}
  </fieldset>
  <div>
    <label class="label" for="{uid}-limit">Maximum size of a client message</label><input
      id="{uid}-limit"
      class="field w-40"
      bind:value={given.bodyLimit}
      required
    />
    <p class="text-sm text-soft">Such as 512KiB or 4MiB. Tools that accept files or long texts need more.</p>
  </div>
  {#if endpoint.formerly.length > 0}
    <p class="hint">Former addresses that still work: {endpoint.formerly.join(', ')}.</p>
  {/if}
  {#if save.problem}<Problem problem={save.problem} />{/if}
  <p class="flex items-center gap-3">
    <button class="button button-main" disabled={save.busy}>Save</button>{#if save.result}<span
        class="text-spruce"
        role="status">Saved.</span
      >{/if}
  </p>
</form>

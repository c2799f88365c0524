<script lang="ts">
import Radio from '@lucide/svelte/icons/radio';
import { isObject, type Json, pointer } from '@pindro/core/browser';
import Problem from '../../parts/text/Problem.svelte';
import { api } from '../../state/api.js';
import { Action } from '../../state/resource.svelte.js';
import type { Editor } from '../session/session.svelte.js';

/** Moves the tools of an agent's toolbox onto an endpoint, so that other agents and clients have them too. */
let { editor, at, toolbox }: { editor: Editor; at: PropertyKey[]; toolbox: Json } = $props();

const uid = $props.id();
let endpoint = $state('');
const own = $derived(
  Array.isArray(toolbox) ? toolbox.filter((row) => isObject(row) && !('endpoint' in row)).length : 0,
);
const move = new Action(async () => {
  await editor.save();
  return api.moveToolbox({ name: editor.name, body: { step: pointer(at), endpoint } });
});
</script>

{#if own > 0}
  <details class="mt-4 rounded-md border border-line p-3">
    <summary class="cursor-pointer font-medium">Share these tools</summary>
    <form
      class="mt-2"
      onsubmit={(event) => {
        event.preventDefault();
        void move.run();
      }}
    >
      <p class="mb-2 text-sm text-soft">
        They move to an endpoint with their descriptions and rules, and the endpoint replaces them in this toolbox
        as one row.
      </p>
      <label class="label" for="{uid}-endpoint">Endpoint; created if it does not exist</label>
      <div class="flex gap-2">
        <input
          id="{uid}-endpoint"
          class="field font-mono"
          bind:value={endpoint}
          required
          placeholder="desk-tools"
        /><button class="button" disabled={move.busy}><Radio size={15} aria-hidden="true" /> Move</button>
      </div>
      {#if move.problem}<div class="mt-2"><Problem problem={move.problem} /></div>{/if}
    </form>
  </details>
{/if}
{#if move.result}<p class="mt-2 text-spruce" role="status">
    They are now on <a class="link" href="/endpoints/{move.result.name}">{move.result.name}</a> .
  </p>{/if}

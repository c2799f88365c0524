<script lang="ts">
import type { ServerDetail } from '@pindro/contract/light';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import Fields from '../forms/Fields.svelte';
import { plainPlace } from '../forms/place.js';
import Problem from '../parts/text/Problem.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';

/** Information that a server reports, its users, and its settings for all tools. */
let { server }: { server: ServerDetail } = $props();
const uid = $props.id();
const SCHEMA: JsonSchema = {
  type: 'object',
  properties: {
    rules: {
      form: 'server-rules',
      title: 'Argument rules',
      description: 'Who supplies an argument of this name, for every tool of the server with that argument',
    },
  },
};
// svelte-ignore state_referenced_locally
let given = $state.raw<JsonObject>({ server: server.name, rules: server.rules as JsonObject });
const save = new Action(() =>
  api.updateServer({ name: server.name, body: { rules: (given.rules ?? {}) as JsonObject, skipTest: true } }),
);
</script>

<div class="grid gap-6 lg:grid-cols-2">
  <section>
    <h2 class="mb-2">Server information</h2>
    <p>{server.about || 'The server has not reported its name.'}</p>
    {#if server.instructions}
      <blockquote class="mt-2 border-l-2 border-line pl-4 whitespace-pre-wrap">{server.instructions}</blockquote>
      <p class="hint">Agents and clients of endpoints receive these instructions with its tools.</p>
    {:else}<p class="text-soft">The server has no instructions.</p>{/if}
    <h2 class="mt-6 mb-2">Used by</h2>
    <ul class="space-y-1">
      {#each server.usedTools as { by, tools } (by)}
        <li><span class="font-medium">{by}</span>: <span class="font-mono text-sm">{tools.join(', ')}</span></li>
      {/each}
      {#each server.usedBy.filter((by) => !server.usedTools.some((one) => one.by === by)) as by (by)}<li>
          {by}
        </li>{/each}
      {#if server.usedBy.length + server.usedTools.length === 0}<li class="text-soft">Nothing uses it yet.</li>{/if}
    </ul>
  </section>
  <form
    onsubmit={(event) => {
      event.preventDefault();
      void save.run();
    }}
  >
    <Fields
      id={uid}
      schema={SCHEMA}
      value={given}
      path={[]}
      place={plainPlace(given)}
      plain
      onChange={(next) => (given = next)}
    />
    {#if save.problem}<div class="mb-3"><Problem problem={save.problem} /></div>{/if}
    <button class="button button-main" disabled={save.busy}>{save.busy ? 'Saving …' : 'Save'}</button>
    {#if save.result}<span role="status" class="ml-3 text-spruce">Saved.</span>{/if}
  </form>
</div>

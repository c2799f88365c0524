<script lang="ts">
import type { ServerDetail } from '@pindro/contract/light';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import SchemaForm from '../forms/SchemaForm.svelte';
import Problem from '../parts/Problem.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';
import Value from '../values/Value.svelte';

interface Props {
  server: string;
  tool: ServerDetail['toolList'][number];
  /** Whether it stands open at once. */
  begun: boolean;
}
/** One tool of a server, which can be tried right here. */
let { server, tool, begun }: Props = $props();
// svelte-ignore state_referenced_locally
let trying = $state(begun);
let input = $state.raw<JsonObject>({});
const call = new Action(() => api.callServerTool({ name: server, tool: tool.name, body: { arguments: input } }));
</script>

<li class="panel">
  <div class="flex flex-wrap items-start justify-between gap-3">
    <div class="min-w-0">
      <h3 class="font-mono font-semibold">{tool.name}</h3>
      <p>{tool.description}</p>
    </div>
    <button type="button" class="button button-small" aria-expanded={trying} onclick={() => (trying = !trying)}
      >Try it<span class="sr-only">: {tool.name}</span></button
    >
  </div>
  {#if trying}
    <form
      class="mt-4 border-t border-line pt-4"
      onsubmit={(event) => {
        event.preventDefault();
        void call.run();
      }}
    >
      <SchemaForm schema={tool.inputSchema as JsonSchema} bind:value={input} />
      <button class="button button-main" disabled={call.busy}>{call.busy ? 'Calling …' : 'Call'}</button>
      <div class="mt-3" aria-live="polite">
        {#if call.problem}<Problem problem={call.problem} />{/if}
        {#if call.result?.isError}
          <Problem
            problem={{
              type: '',
              status: 0,
              code: '',
              title: call.result.text,
              hint: 'The tool was reached and said this.',
            }}
          />
        {:else if call.result}
          <p class="mb-1 text-sm text-soft">Answered in {call.result.milliseconds} ms</p>
          <Value value={call.result.data ?? call.result.text} name="answer" />
        {/if}
      </div>
    </form>
  {/if}
</li>

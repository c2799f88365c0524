<script lang="ts">
import RefreshCw from '@lucide/svelte/icons/refresh-cw';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import SchemaForm from '../forms/SchemaForm.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import Problem from '../parts/Problem.svelte';
import State from '../parts/State.svelte';
import Value from '../parts/Value.svelte';
import { api } from '../state/api.js';
import { moment, plural } from '../state/format.js';
import { Action, Resource } from '../state/resource.svelte.js';

let { name }: { name: string } = $props();

const server = new Resource(() => api.getServer({ name }), ['server', 'flow', 'endpoint']);
const refresh = new Action(() => api.refreshServer({ name }));
let trying = $state<string | null>(null);
let input = $state.raw<JsonObject>({});
const call = new Action((tool: string) => api.callServerTool({ name, tool, body: { arguments: input } }));

function tryTool(tool: string) {
  trying = trying === tool ? null : tool;
  input = {};
  call.result = undefined;
  call.problem = null;
}
</script>

<Loaded from={server}>
  {#snippet children(now)}
    <PageHead title={now.name} about={now.about} back={{ to: '/servers', label: 'Tool servers' }}>
      {#snippet actions()}<button
          type="button"
          class="button"
          disabled={refresh.busy}
          onclick={() => void refresh.run()}
          ><RefreshCw size={16} aria-hidden="true" /> {refresh.busy ? 'Asking …' : 'Read its tools again'}</button
        >{/snippet}
    </PageHead>
    <div class="mb-6 space-y-3">
      <p class="flex flex-wrap items-center gap-3">
        <State state={now.state} /> <span class="font-mono text-sm wrap-anywhere">{now.url}</span>
        <span class="text-soft">last seen {moment(now.seenAt)}</span>
      </p>
      {#if now.credential}<p>Credential: <a class="link" href="/credentials">{now.credential}</a></p>{/if}
      <p class="text-soft">Used by {now.usedBy.join(', ') || 'nothing yet'}.</p>
      {#if now.trouble}<Problem
          problem={{ type: '', status: 0, code: '', title: now.trouble, hint: now.fix ?? '' }}
        />{/if}
      {#if refresh.problem && !now.trouble}<Problem problem={refresh.problem} />{/if}
      {#if refresh.result}<p role="status">
          It answered with {plural(refresh.result.tools, 'tool')}{refresh.result.added.length > 0
            ? `, new: ${refresh.result.added.join(', ')}`
            : ''}{refresh.result.removed.length > 0 ? `, gone: ${refresh.result.removed.join(', ')}` : ''}.
        </p>{/if}
    </div>
    <h2 class="mb-2">Tools</h2>
    <ul class="space-y-3">
      {#each now.toolList as tool (tool.name)}
        <li class="panel">
          <div class="flex flex-wrap items-start justify-between gap-3">
            <div>
              <h3 class="font-mono font-semibold">{tool.name}</h3>
              <p>{tool.description}</p>
            </div>
            <button
              type="button"
              class="button text-sm"
              aria-expanded={trying === tool.name}
              onclick={() => tryTool(tool.name)}>Try it</button
            >
          </div>
          {#if trying === tool.name}
            <form
              class="mt-4 border-t border-line pt-4"
              onsubmit={(event) => {
                event.preventDefault();
                void call.run(tool.name);
              }}
            >
              <SchemaForm schema={tool.inputSchema as JsonSchema} bind:value={input} />
              <button class="button button-main" disabled={call.busy}>{call.busy ? 'Calling …' : 'Call'}</button>
              <div class="mt-3" aria-live="polite">
                {#if call.problem}<Problem problem={call.problem} />{/if}
                {#if call.result}
                  {#if call.result.isError}<Problem
                      problem={{
                        type: '',
                        status: 0,
                        code: '',
                        title: call.result.text,
                        hint: 'The tool was reached and said this.',
                      }}
                    />{:else}<p class="mb-1 text-sm text-soft">Answered in {call.result.milliseconds} ms</p>
                    <Value value={call.result.data ?? call.result.text} name="answer" />{/if}
                {/if}
              </div>
            </form>
          {/if}
        </li>
      {/each}
    </ul>
  {/snippet}
</Loaded>

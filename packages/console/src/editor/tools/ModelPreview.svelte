<script lang="ts">
import Eye from '@lucide/svelte/icons/eye';
import type { JsonObject } from '@pindro/core/browser';
import Code from '../../parts/text/Code.svelte';
import Problem from '../../parts/text/Problem.svelte';
import Window from '../../parts/text/Window.svelte';
import Said from '../../values/ReportedText.svelte';
import { api } from '../../state/api.js';
import { plural, words } from '../../state/format.js';
import { Action } from '../../state/resource.svelte.js';
import type { Editor } from '../session/session.svelte.js';
import type { Trial } from '../try/trial.svelte.js';

/** What the model of a step will be sent before anything runs: as people read it, and as it goes. */
let { editor, trial, step }: { editor: Editor; trial: Trial; step: string } = $props();
let open = $state(false);
const look = new Action(() =>
  api.previewModel({
    name: editor.name,
    body: { step, ...(trial.lastRun ? { run: trial.lastRun } : { input: trial.input }) },
  }),
);
const WHO: Record<string, string> = { user: 'User', assistant: 'Agent', tool: 'Result' };

async function show() {
  open = true;
  await editor.save();
  await look.run();
}
const propertiesOf = (schema: JsonObject) =>
  Object.keys((schema.properties as JsonObject | undefined) ?? {}).join(', ');
</script>

<button type="button" class="button button-small mt-3" onclick={() => void show()}>
  <Eye size={15} aria-hidden="true" /> Model request preview
</button>
{#if open}
  <Window bind:open title="Model request preview" wide>
    {#if look.problem}
      <Problem problem={look.problem} />
    {:else if look.result}
      {@const { system, tools, turns, tokens, left, connection, model, address, body } = look.result}
      <p class="mb-4 text-soft">
        To {model} of {connection}, at {address}: about {tokens.system + tokens.tools + tokens.turns} tokens, of which
        {tokens.system} for the instructions, {tokens.tools} for the tools and {tokens.turns} for the conversation.
        {trial.lastRun ? 'With the input of the last run.' : 'With the input of the try-out.'}
      </p>
      {#if left.length > 0}
        <p class="mb-4 text-ochre">Omitted because it does not fit: {left.join(', ')}.</p>
      {/if}
      <div class="grid gap-6 md:grid-cols-2">
        <div class="min-w-0 space-y-5">
          <section>
            <h3 class="mb-1">Instructions</h3>
            {#if system}<p class="rounded-md bg-sunk p-3 whitespace-pre-wrap">{system}</p>
            {:else}<p class="text-soft">None.</p>{/if}
          </section>
          <section>
            <h3 class="mb-1">Conversation</h3>
            <ol class="space-y-2">
              {#each turns as turn, index (index)}
                <li class="rounded-md bg-sunk p-3">
                  <span class="block text-sm text-soft">
                    {WHO[turn.role] ?? turn.role}{turn.tool ? ` of ${words(turn.tool)}` : ''}
                  </span>
                  <Said text={turn.text} />
                </li>
              {/each}
            </ol>
          </section>
        </div>
        <section class="min-w-0">
          <h3 class="mb-1">{plural(tools.length, 'tool')}</h3>
          <ul class="space-y-2">
            {#each tools as tool (tool.name)}
              <li class="rounded-md border border-line p-3">
                <p class="font-mono text-sm font-medium">{tool.name}</p>
                <p class="whitespace-pre-wrap">{tool.description}</p>
                <p class="mt-1 text-sm text-soft">
                  {propertiesOf(tool.schema as JsonObject)
                    ? `takes ${propertiesOf(tool.schema as JsonObject)}`
                    : 'no arguments'}
                </p>
                {#if tool.lost.length > 0}
                  <p class="mt-1 text-sm text-ochre">Sent as text only: {tool.lost.join('; ')}</p>
                {/if}
              </li>
            {/each}
          </ul>
        </section>
      </div>
      <details class="mt-5">
        <summary class="cursor-pointer font-medium">Request body</summary>
        <div class="mt-2"><Code text={JSON.stringify(body, null, 2)} label="Body of the request" /></div>
      </details>
    {:else}
      <p class="busy" role="status">Preparing the preview …</p>
    {/if}
  </Window>
{/if}

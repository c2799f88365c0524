<script lang="ts">
import ChevronDown from '@lucide/svelte/icons/chevron-down';
import type { ExposedTool } from '@pindro/contract/light';
import Code from '../parts/text/Code.svelte';
import Problem from '../parts/text/Problem.svelte';
import State from '../parts/text/State.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';
import { HINTS } from './hints.js';
import IconField from './IconField.svelte';
import ToolArguments from './ToolArguments.svelte';
import ToolEffects from './ToolEffects.svelte';

/** One tool as a model reads it: every word can be changed here without touching the flow or the server. */
let { endpoint, tool }: { endpoint: string; tool: ExposedTool } = $props();

const uid = $props.id();
let open = $state(false);
let removing = $state(false);
const word = new Action((body: Parameters<typeof api.describeTool>[0]['body']) =>
  api.describeTool({ name: endpoint, tool: tool.name, body }),
);
const take = new Action(() => api.removeTool({ name: endpoint, tool: tool.name }));
const marks = $derived(
  HINTS.filter(({ key }) => tool.annotations[key] === true).map(({ label }) => label.toLowerCase()),
);
/** Keeps a word when its field is left, or takes the change back where it says the same as the flow. */
function keep(field: 'title' | 'description', value: string) {
  const text = value.trim();
  if (text !== tool[field])
    void word.run({ [field]: text === tool.own[field].trim() || text === '' ? null : text });
}
function rename(value: string) {
  if (value.trim() && value.trim() !== tool.name) void word.run({ name: value.trim() });
}
</script>

<li class="panel">
  <div class="flex flex-wrap items-baseline justify-between gap-2">
    <h3 class="flex flex-wrap items-baseline gap-x-3 gap-y-1">
      {#if tool.icon?.startsWith('data:')}<img src={tool.icon} alt="" class="size-6 self-center" />{/if}<span
        class="font-mono font-semibold wrap-anywhere">{tool.name}</span
      >{#if tool.title}<span class="font-normal text-soft">{tool.title}</span>{/if}
    </h3>
    <span class="text-sm text-soft"
      >{#if tool.target.startsWith('flow ')}<a class="link" href="/flows/{tool.target.slice(5)}">{tool.target}</a
        >{:else}<a class="link" href="/servers/{tool.target.split('.')[0]}">{tool.target}</a>{/if}{tool.passed
        ? ', from a whole server'
        : ''}</span
    >
  </div>
  <p class="mt-1">{tool.description || 'No description.'}</p>
  <p class="mt-2 flex flex-wrap items-center gap-2 text-sm text-soft">
    {#each marks as mark (mark)}<State
        state={mark === 'destructive' ? 'refused' : mark === 'read-only' ? 'ready' : 'waiting'}
        label={mark}
      />{/each}
    <span>about {tool.tokens} tokens</span>
    {#if tool.credential === 'caller'}<span>with the caller's own credential</span>{/if}
    {#if tool.worded.length > 0}<span>overridden: {tool.worded.join(', ')}</span>{/if}
  </p>
  {#if tool.trouble}<p class="mt-2 text-rowan">{tool.trouble}</p>{/if}
  {#if tool.set.length > 0}<p class="mt-2 text-sm text-soft">
      Supplied by argument rules: <span class="font-mono">{tool.set.join(', ')}</span>
    </p>{/if}
  <button type="button" class="button mt-3 px-2 py-1 text-sm" aria-expanded={open} onclick={() => (open = !open)}
    ><ChevronDown size={15} class={open ? 'rotate-180' : ''} aria-hidden="true" />
    {open ? 'Close' : 'Description and arguments'} <span class="sr-only">of {tool.name}</span></button
  >
  {#if open}
    <div class="mt-4 space-y-4 border-t border-line pt-4">
      {#if word.problem}<Problem problem={word.problem} />{/if}
      <div class="grid gap-4 sm:grid-cols-2">
        <div>
          <label class="label" for="{uid}-name">Name for clients</label><input
            id="{uid}-name"
            class="field font-mono"
            value={tool.name}
            onchange={(event) => rename(event.currentTarget.value)}
          />
        </div>
        <div>
          <label class="label" for="{uid}-title">Title for people</label><input
            id="{uid}-title"
            class="field"
            value={tool.title}
            placeholder={tool.own.title}
            onchange={(event) => keep('title', event.currentTarget.value)}
          />
        </div>
      </div>
      <div>
        <label class="label" for="{uid}-description">Description</label>
        <textarea
          id="{uid}-description"
          class="field"
          rows="3"
          value={tool.description}
          onchange={(event) => keep('description', event.currentTarget.value)}></textarea>
        {#if tool.worded.includes('description')}<p class="mt-1 text-sm text-soft">
            The {tool.credential ? 'server' : 'flow'} original: {tool.own.description || 'nothing'}
            <button type="button" class="link" onclick={() => void word.run({ description: null })}>Reset</button>
          </p>{/if}
      </div>
      {#if tool.arguments.length > 0}<ToolArguments {tool} {word} />{/if}
      <IconField label="Icon" value={tool.icon} change={(icon) => void word.run({ icon: icon || null })} />
      {#if tool.credential}
        <div>
          <label class="label" for="{uid}-credential">Credential</label><select
            id="{uid}-credential"
            class="field max-w-80"
            value={tool.credential}
            onchange={(event) => void word.run({ credential: event.currentTarget.value as 'caller' })}
            ><option value="workspace">the workspace's, stored with the server</option><option value="caller"
              >the caller's own, named on their key</option
            ></select
          >{#if tool.credential === 'caller'}<p class="mt-1 text-sm text-soft">
              Callers without a credential on their key receive an error that explains it.
            </p>{/if}
        </div>
      {/if}
      <ToolEffects {tool} {word} />
      {#if tool.outputSchema}<details>
          <summary class="cursor-pointer font-medium">Result schema</summary>
          <div class="mt-2">
            <Code text={JSON.stringify(tool.outputSchema, null, 2)} label="result schema of {tool.name}" />
          </div>
        </details>{/if}
      {#if take.problem}<Problem problem={take.problem} />{/if}
      {#if !tool.passed}
        {#if removing}<p class="flex flex-wrap items-center gap-2">
            Clients that use it lose it immediately. <button
              type="button"
              class="button"
              onclick={() => void take.run()}>Remove {tool.name} from the endpoint?</button
            ><button type="button" class="button" onclick={() => (removing = false)}>Keep</button>
          </p>
        {:else}<button type="button" class="button" onclick={() => (removing = true)}
            >Remove from this endpoint</button
          >{/if}
      {/if}
    </div>
  {/if}
</li>

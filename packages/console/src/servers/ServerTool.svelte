<script lang="ts">
import type { ServerDetail, ServerSample } from '@pindro/contract/light';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import JsonOf from '../values/JsonOf.svelte';
import Arguments from './Arguments.svelte';
import { effectsOf, UNSAID } from './effects.js';
import TryTool from './TryTool.svelte';

interface Props {
  server: ServerDetail;
  tool: ServerDetail['toolList'][number];
  samples: ServerSample[];
  /** Whether it stands open at once. */
  begun: boolean;
}
/** One tool of a server: what it takes, what it does, and a form to try it right here. */
let { server, tool, samples, begun }: Props = $props();
// svelte-ignore state_referenced_locally
let part = $state<'' | 'look' | 'try'>(begun ? 'try' : '');
const effects = $derived(effectsOf(tool.annotations));
const open = (wanted: 'look' | 'try') => (part = part === wanted ? '' : wanted);
const ALLOWED = {
  allowed: ['spruce', 'allowed for the credential'],
  refused: ['rowan', 'rejected for the credential'],
} as const;
</script>

<li class="panel">
  <div class="flex flex-wrap items-start justify-between gap-3">
    <div class="min-w-0">
      <h3 class="font-mono font-semibold">{tool.name}</h3>
      <p>{tool.description || tool.title || 'The tool declares no side effects.'}</p>
      <p class="mt-1 flex flex-wrap gap-1.5 text-sm">
        {#each effects as effect (effect.says)}<span class="tag">{effect.says}</span>{/each}
        {#if tool.allowed}
          {@const [color, words] = ALLOWED[tool.allowed]}
          <span class="tag text-{color}">{words}</span>
        {:else if server.credential}<span class="tag text-soft">not yet called with the credential</span>{/if}
      </p>
    </div>
    <div class="flex gap-2">
      <button type="button" class="button button-small" aria-expanded={part === 'look'} onclick={() => open('look')}
        >Details <span class="sr-only">of {tool.name}</span></button
      >
      <button type="button" class="button button-small" aria-expanded={part === 'try'} onclick={() => open('try')}
        >Try <span class="sr-only">{tool.name}</span></button
      >
    </div>
  </div>
  {#if part === 'look'}
    <div class="mt-4 space-y-3 border-t border-line pt-4">
      <Arguments schema={tool.inputSchema as JsonSchema} rules={server.rules as JsonObject} />
      <ul class="text-sm">
        {#each effects as { says, follows } (says)}
          <li>
            <span class="font-medium">It {says.startsWith('the same') ? `declares: ${says}` : says}.</span>
            {follows}
          </li>
        {:else}<li>{UNSAID}</li>{/each}
      </ul>
      <JsonOf value={tool} name={tool.name} />
    </div>
  {:else if part === 'try'}
    <div class="mt-4 border-t border-line pt-4"><TryTool {server} {tool} {samples} /></div>
  {/if}
</li>

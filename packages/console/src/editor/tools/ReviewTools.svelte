<script lang="ts">
import { pointer } from '@pindro/core/browser';
import Suggestions from '../../endpoint/Suggestions.svelte';
import Problem from '../../parts/text/Problem.svelte';
import { api } from '../../state/api.js';
import { plural } from '../../state/format.js';
import { Action } from '../../state/resource.svelte.js';
import type { Editor } from '../session/session.svelte.js';

/** Tools as an agent's model receives them, with suggestions. Applied suggestions affect this agent only. */
let { editor, at }: { editor: Editor; at: PropertyKey[] } = $props();

const look = new Action(async (suggestions?: string[]) => {
  await editor.save();
  const step = pointer(at);
  if (!suggestions) return api.reviewToolbox({ name: editor.name, query: { step } });
  return api.applyToolboxReview({ name: editor.name, body: { step, suggestions } });
});
</script>

<div class="mt-4">
  <button type="button" class="button" disabled={look.busy} onclick={() => void look.run()}
    >{look.busy ? 'Looking …' : 'Review these tools'}</button
  >
  {#if look.problem}<div class="mt-2"><Problem problem={look.problem} /></div>{/if}
  {#if look.result}
    {@const { suggestions, sent, tokens } = look.result}
    <p class="mt-2 mb-2 text-sm text-soft" role="status">
      {plural(sent.length, 'tool')}, about {tokens} tokens. {suggestions.length === 0
        ? 'No findings.'
        : `${plural(suggestions.length, 'finding')}.`}
    </p>
    <Suggestions {suggestions} busy={look.busy} apply={(id) => void look.run([id])} />
  {/if}
</div>

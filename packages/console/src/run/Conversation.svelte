<script lang="ts">
import type { ModelTranscript, TranscriptMessage } from '@pindro/core/browser';
import { plural } from '../state/format.js';
import Value from '../values/Value.svelte';

interface Props {
  talk: ModelTranscript;
  /** The selected span. */
  chosen?: string | null;
  onSelect?: (span: string) => void;
}
/** A conversation as the model saw it: instructions, messages, calls and results. */
let { talk, chosen = null, onSelect }: Props = $props();
/** So many of the newest messages are drawn at first. */
const AT_FIRST = 100;
let all = $state(false);
const told = $derived(talk.messages.filter(({ role }) => role === 'system'));
const earlier = $derived(talk.messages.filter((one) => one.earlier));
const present = $derived(talk.messages.filter((one) => one.role !== 'system' && !one.earlier));
const now = $derived(all ? present : present.slice(-AT_FIRST));
const WHO: Record<TranscriptMessage['role'], string> = {
  system: 'Instructions',
  user: 'User',
  assistant: 'The model',
  tool: 'Result',
};
/** Results are often JSON in a text. */
function asValue({ text }: TranscriptMessage): unknown {
  try {
    const value: unknown = JSON.parse(text);
    return typeof value === 'object' && value !== null ? value : text;
  } catch {
    return text;
  }
}
</script>

{#snippet message(one: TranscriptMessage)}
  <li class="talk-{one.role}" class:talk-chosen={one.span !== null && one.span === chosen}>
    <p class="flex items-baseline justify-between gap-3 text-sm font-semibold text-soft">
      <span
        >{WHO[one.role]}{one.tool ? ` from ${one.tool}` : ''}{#if one.failed}<span class="text-rowan">, failed</span
          >{/if}</span
      >
      {#if onSelect && one.span}
        {@const span = one.span}
        <button
          type="button"
          class="font-normal underline-offset-2 hover:underline"
          aria-pressed={span === chosen}
          aria-label="Details of {one.role === 'tool' ? `the call of ${one.tool}` : 'the model request'}"
          onclick={() => onSelect(span)}>Details</button
        >
      {/if}
    </p>
    {#if one.reasoning}<details class="text-sm">
        <summary class="cursor-pointer text-soft">Reasoning</summary>
        <p class="whitespace-pre-wrap wrap-anywhere">{one.reasoning}</p>
      </details>{/if}
    {#if one.role === 'tool'}<Value value={asValue(one)} name="result" />{:else if one.text}<p
        class="whitespace-pre-wrap wrap-anywhere"
      >
        {one.text}
      </p>{/if}
    {#each one.calls as call, index (index)}
      <div class="mt-1">
        <p>calls <span class="font-medium">{call.name}</span> with</p>
        <Value value={call.arguments} name="arguments of {call.name}" />
      </div>
    {/each}
    {#if one.role === 'assistant' && !one.text && one.calls.length === 0}<p class="text-soft">no text</p>{/if}
  </li>
{/snippet}

<div class="talk">
  {#if talk.isCut}<p class="mb-2 text-soft">
      The beginning was too long to record; the record starts at the message.
    </p>{/if}
  {#if told.length > 0}<details class="mb-2">
      <summary class="cursor-pointer text-soft">Instructions</summary>
      <ol>
        {#each told as one, index (index)}{@render message(one)}{/each}
      </ol>
    </details>{/if}
  {#if earlier.length > 0}<details class="mb-2">
      <summary class="cursor-pointer text-soft">{plural(earlier.length, 'message')} of earlier turns</summary>
      <ol>
        {#each earlier as one, index (index)}{@render message(one)}{/each}
      </ol>
    </details>{/if}
  {#if now.length < present.length}
    <button type="button" class="button button-small mb-2" onclick={() => (all = true)}
      >Show {plural(present.length - now.length, 'earlier message')}</button
    >
  {/if}
  <ol>
    {#each now as one, index (index)}{@render message(one)}{/each}
  </ol>
</div>

<script lang="ts">
import { type Json, readValue, showValue } from '@pindro/core/browser';
import type { Snippet } from 'svelte';
import FieldFrame from '../FieldFrame.svelte';
import type { FieldProps } from '../place.js';

/** A value of any shape as YAML. Text that cannot be parsed remains as typed, with an error. */
let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
// svelte-ignore state_referenced_locally
let text = $state(show(props.value));
let wrong = $state('');
// svelte-ignore state_referenced_locally
let last = JSON.stringify(props.value);

function show(shown: Json | undefined): string {
  return typeof shown === 'string' && shown.includes('${') ? shown : showValue(shown);
}
// A change from elsewhere (undo, another editor) is shown; one of our own leaves the text as it was typed.
$effect(() => {
  const now = JSON.stringify(props.value);
  if (now === last) return;
  last = now;
  text = show(props.value);
  wrong = '';
});
function typed(next: string) {
  text = next;
  try {
    // A lone expression would be taken apart by the colons and braces in it.
    const read = /^\s*\$\{[\s\S]*\}\s*$/.test(next) ? next.trim() : readValue(next);
    wrong = '';
    last = JSON.stringify(read);
    props.onChange(read);
  } catch (error) {
    wrong = (error as Error).message.split('\n')[0] ?? 'It cannot be parsed';
  }
}
</script>

<FieldFrame {...props} {tools}>
  <textarea
    id={props.id}
    class="field resize-y font-mono text-[0.85rem]"
    rows={Math.min(18, Math.max(3, text.split('\n').length))}
    value={text}
    oninput={(event) => typed(event.currentTarget.value)}
    aria-describedby="{props.id}-about"
    spellcheck="false"
    autocomplete="off"></textarea>
  {#if wrong}<p class="fault">{wrong}</p>{/if}
</FieldFrame>

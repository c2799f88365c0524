<script lang="ts">
import { type Json, readValue, showValue } from '@pindro/core/browser';
import ExprField from './ExprField.svelte';
import type { FieldPlace } from './place.js';

interface Props {
  id: string;
  label: string;
  about: string;
  value: Json | undefined;
  path: string[];
  place: FieldPlace;
  required: boolean;
  plain: boolean;
  onChange: (value: Json | undefined) => void;
}
/** A value of any shape, written as YAML. What cannot be read yet stays as it was typed, and is told. */
let { id, label, about, value, path, place, required, plain, onChange }: Props = $props();
// svelte-ignore state_referenced_locally
let text = $state(show(value));
let wrong = $state('');
// svelte-ignore state_referenced_locally
let last = JSON.stringify(value);

function show(shown: Json | undefined): string {
  return typeof shown === 'string' && shown.includes('${') ? shown : showValue(shown);
}
// A change from elsewhere (undo, another editor) is shown; one of our own leaves the text as it was typed.
$effect(() => {
  const now = JSON.stringify(value);
  if (now === last) return;
  last = now;
  text = show(value);
  wrong = '';
});
function typed(next: string) {
  text = next;
  try {
    // A lone expression would be taken apart by the colons and braces in it.
    const read = /^\s*\$\{[\s\S]*\}\s*$/.test(next) ? next.trim() : readValue(next);
    wrong = '';
    last = JSON.stringify(read);
    onChange(read);
  } catch (error) {
    wrong = (error as Error).message.split('\n')[0] ?? 'It cannot be read';
  }
}
</script>

<ExprField {id} {label} about="{about}{about ? '. ' : ''}Written as YAML, or an expression." {value} {path} {place} {required} {plain} mono written={{ text, type: typed, wrong }} {onChange} />

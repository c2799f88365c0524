<script lang="ts">
import {
  isObject,
  type Json,
  type JsonSchema,
  readValue,
  renameInput,
  showValue,
  withValue,
} from '@pindro/core/browser';
import { propertiesOf } from '../../forms/properties.js';
import PropertiesForm from '../../forms/PropertiesForm.svelte';
import type { Editor } from '../session/session.svelte.js';

/** The inputs of a flow: as a form, and as the JSON Schema that they are; both show the same. */
let { editor }: { editor: Editor } = $props();
const uid = $props.id();
let asSchema = $state(false);
let wrong = $state('');
const schema = $derived((editor.document.input ?? {}) as JsonSchema);

function put(next: JsonSchema) {
  const kept = propertiesOf(next).length > 0 ? (next as Json) : undefined;
  editor.apply(withValue(editor.document, ['input'], kept), 'inputs');
}
function typed(text: string) {
  try {
    const read = readValue(text);
    wrong = read === undefined || isObject(read) ? '' : 'The schema of the inputs must be an object.';
    if (wrong === '') editor.apply(withValue(editor.document, ['input'], read), 'input-schema');
  } catch (error) {
    wrong = (error as Error).message.split('\n')[0] ?? '';
  }
}
</script>

<div class="mb-2 flex items-center justify-between">
  <h2>Inputs</h2>
  <label class="flex items-center gap-1.5 text-sm">
    <input type="checkbox" class="tick" bind:checked={asSchema} />as JSON Schema
  </label>
</div>
{#each editor.mistakesAt(['input']) as mistake, index (index)}
  <p class="fault mb-2">{mistake.message}{mistake.hint ? `. ${mistake.hint}` : ''}</p>
{/each}
{#if asSchema}
  <label class="sr-only" for="{uid}-schema">JSON Schema of the inputs</label>
  <textarea
    id="{uid}-schema"
    class="field font-mono text-[0.85rem]"
    rows="12"
    value={showValue(editor.document.input as Json | undefined)}
    onchange={(event) => typed(event.currentTarget.value)}
    spellcheck="false"></textarea>
  {#if wrong}<p class="fault mt-1">{wrong}</p>{/if}
{:else}
  {#if propertiesOf(schema).length === 0}
    <p class="mb-2 text-sm text-soft">No inputs yet. Add one, or use “Caller or model” in any field of a step.</p>
  {/if}
  <PropertiesForm
    id={uid}
    what="input"
    {schema}
    onRename={(name, wanted) => editor.apply(renameInput(editor.document, name, wanted))}
    onChange={put}
  />
{/if}

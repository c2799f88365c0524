<script lang="ts">
import { isObject, type JsonSchema, putInput, withValue } from '@pindro/core/browser';
import type { Editor } from '../editor/session/session.svelte.js';
import { TYPES } from './properties.js';

interface Props {
  label: string;
  path: PropertyKey[];
  editor: Editor;
  /** What the field takes, so that the input takes the same. */
  schema: JsonSchema;
  onDone: () => void;
}
/** Makes a field an input of the flow in one gesture, or uses an input that is there. */
let { label, path, editor, schema, onDone }: Props = $props();
const uid = $props.id();
const inputs = $derived(isObject(editor.document.input?.properties) ? editor.document.input.properties : {});
// svelte-ignore state_referenced_locally
let name = $state(
  String(path.at(-1) ?? 'value')
    .replaceAll(/[^a-z0-9_]/gi, '_')
    .toLowerCase()
    .replace(/^(\d)/, 'n$1'),
);
let description = $state('');
// svelte-ignore state_referenced_locally
let type = $state((TYPES as readonly string[]).includes(String(schema.type)) ? String(schema.type) : 'string');
const taken = $derived(name in inputs);

function done() {
  const fresh: JsonSchema = {
    type,
    ...(Array.isArray(schema.enum) && { enum: schema.enum }),
    ...(description && { description }),
  };
  const declared = taken ? editor.document : putInput(editor.document, name, fresh, true);
  editor.apply(withValue(declared, path, `\${ input.${name} }`));
  onDone();
}
</script>

<div class="mt-2 rounded-md border border-line p-3" role="group" aria-label="Create an input for {label}">
  <label class="label" for="{uid}-name">Name of the input</label>
  <input id="{uid}-name" class="field mb-2" bind:value={name} list="{uid}-names" pattern="[a-z_][a-z0-9_]*" />
  <datalist id="{uid}-names"
    >{#each Object.keys(inputs) as one (one)}<option value={one}></option>{/each}</datalist
  >
  {#if taken}
    <p class="mb-2 text-sm text-ochre">
      An input “{name}” already exists. It is used here; choose another name for a new one.
    </p>
  {:else}
    <label class="label" for="{uid}-about">Description</label>
    <input id="{uid}-about" class="field mb-2" bind:value={description} />
    <label class="label" for="{uid}-type">Type</label>
    <select id="{uid}-type" class="field mb-3" bind:value={type}
      >{#each TYPES as one (one)}<option>{one}</option>{/each}</select
    >
  {/if}
  <button type="button" class="button button-main" disabled={!/^[a-z_]\w*$/i.test(name)} onclick={done}
    >{taken ? `Use input ${name}` : 'Create input'}</button
  >
</div>

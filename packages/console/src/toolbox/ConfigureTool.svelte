<script lang="ts">
import { isObject, type JsonObject, type JsonSchema } from '@pindro/core/browser';
import Fields from '../forms/Fields.svelte';
import type { FieldPlace } from '../forms/place.js';
import Arguments from '../servers/Arguments.svelte';
import JsonOf from '../values/JsonOf.svelte';

interface Props {
  tool: string;
  /** What may be set for a tool. */
  schema: JsonSchema;
  settings: JsonObject;
  path: PropertyKey[];
  place: FieldPlace;
  /** The tool as the model reads it, once the draft is kept. */
  sent: JsonObject | undefined;
  onChange: (settings: JsonObject) => void;
}
/** One tool of a toolbox: its words, its arguments, what becomes of its results, and what the model reads of it. */
let { tool, schema, settings, path, place, sent, onChange }: Props = $props();
const uid = $props.id();
const input = $derived(isObject(sent?.inputSchema) ? (sent.inputSchema as JsonSchema) : undefined);
</script>

<h3 class="mb-3 font-mono font-semibold wrap-anywhere">{tool}</h3>
<section class="mb-5 rounded-md bg-sunk p-3 text-sm" aria-label="Preview for the model">
  <h4 class="mb-1 font-medium">Preview for the model</h4>
  {#if sent}
    <p class="font-mono font-medium wrap-anywhere">{String(sent.name)}</p>
    <p class="mb-2 whitespace-pre-wrap wrap-anywhere">{String(sent.description ?? '')}</p>
    {#if input}<Arguments schema={input} rules={{}} bare />{/if}
    <JsonOf value={sent} name="model preview of {tool}" />
  {:else}
    <p class="text-soft">Appears here once the draft is saved.</p>
  {/if}
</section>
<Fields id="{uid}-{tool}" {schema} value={settings} {path} {place} onChange={(next) => onChange(next)} />

<script lang="ts">
import Plus from '@lucide/svelte/icons/plus';
import type { ToolboxReview } from '@pindro/contract/light';
import { isObject, type Json, type JsonObject, type JsonSchema, pointer } from '@pindro/core/browser';
import { onMount } from 'svelte';
import type { FieldPlace } from '../forms/place.js';
import Suggestions from '../endpoint/Suggestions.svelte';
import Problem from '../parts/text/Problem.svelte';
import Window from '../parts/text/Window.svelte';
import { api } from '../state/api.js';
import { plural } from '../state/format.js';
import { Action } from '../state/resource.svelte.js';
import { Choices } from './choices.svelte.js';
import * as r from './rows.js';
import ConfigureTool from './ConfigureTool.svelte';
import ToolboxRow from './ToolboxRow.svelte';
import ToolPicker from './ToolPicker.svelte';

interface Props {
  open: boolean;
  value: Json | undefined;
  schema: JsonSchema;
  path: PropertyKey[];
  place: FieldPlace;
  onChange: (value: Json | undefined) => void;
}
/** An agent's toolbox: its tools are chosen at the left, and found or tamed at the right. */
let { open = $bindable(), value, schema, path, place, onChange }: Props = $props();
const choices = new Choices();
const rows = $derived(r.rowsOf(value));
/** What stands at the right: one tool of a row, or the picker. */
let tamed = $state.raw<{ row: number; tool: string } | null>(null);
const knownOf = (row: r.Row) => {
  const origin = r.originOf(row);
  return origin ? choices.of(origin.from, origin.source) : [];
};
const namesOf = (row: r.Row) => knownOf(row).map(({ tool }) => tool);
const ways = $derived(
  ((isObject(schema.items) ? schema.items.anyOf : []) as JsonSchema[]).map((way) =>
    isObject(way.properties) ? (way.properties as Record<string, JsonSchema>) : {},
  ),
);
const settingsSchema = $derived.by((): JsonSchema => {
  const row = tamed ? rows[tamed.row] : undefined;
  if (row && 'flow' in row) {
    const { flow: _, ...properties } = ways.find((way) => 'flow' in way) ?? {};
    return { type: 'object', properties };
  }
  return (ways.find((way) => 'server' in way)?.tools?.additionalProperties ?? {}) as JsonSchema;
});

// The service derives the preview from the draft each time it is saved.
const step = $derived(pointer(path.slice(0, -2)));
const look = new Action(async (suggestions?: string[]): Promise<ToolboxReview> => {
  const { editor } = place;
  if (!editor) throw new Error('A toolbox belongs to a flow.');
  await editor.save();
  if (!suggestions) return api.reviewToolbox({ name: editor.name, query: { step } });
  return api.applyToolboxReview({ name: editor.name, body: { step, suggestions } });
});
const sentOf = (row: number, tool: string): JsonObject | undefined => {
  const at = look.result?.places.findIndex(
    (one) => one.row === row && (one.own === tool || (one.own === null && 'flow' in (rows[row] ?? {}))),
  );
  return at === undefined || at < 0 ? undefined : (look.result!.sent[at] as JsonObject);
};
/** What the model calls a tool, where nobody asked for another name. */
function calledInstead(row: number, tool: string): string | undefined {
  const name = sentOf(row, tool)?.name;
  if (typeof name !== 'string' || r.settingsOf(rows[row]!, tool).name) return undefined;
  return name.endsWith(`__${tool.toLowerCase()}`) ? name : undefined;
}
let timer: ReturnType<typeof setTimeout> | undefined;
function lookSoon() {
  clearTimeout(timer);
  timer = setTimeout(() => void look.run(), 400);
}
onMount(() => {
  if (rows.length > 0) void look.run();
  return () => clearTimeout(timer);
});

function put(next: r.Row[]) {
  onChange(next as unknown as Json);
  if (next.length > 0) lookSoon();
}
const putRow = (index: number, row: r.Row) => put(rows.map((one, at) => (at === index ? row : one)));
</script>

<Window bind:open title="Toolbox" wide>
  <div class="grid gap-6 md:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
    <div class="min-w-0">
      <div class="mb-3 flex flex-wrap items-center justify-between gap-2">
        <p class="text-sm text-soft" role="status">
          {#if rows.length > 0 && look.result}
            The model is offered {plural(look.result.sent.length, 'tool')}, about {look.result.tokens} tokens.
          {:else if look.busy}Loading the preview …{/if}
        </p>
        {#if tamed}
          <button type="button" class="button button-small" onclick={() => (tamed = null)}>
            <Plus size={15} aria-hidden="true" /> Find tools
          </button>
        {/if}
      </div>
      <div class="space-y-3">
        {#each rows as row, index (index)}
          <ToolboxRow
            {row}
            known={knownOf(row)}
            called={(tool) => calledInstead(index, tool)}
            tamed={tamed?.row === index ? tamed.tool : null}
            onChange={(next) => putRow(index, next)}
            onRemove={() => {
              tamed = null;
              put(rows.filter((_, at) => at !== index));
            }}
            onTame={(tool) => (tamed = { row: index, tool })}
          />
        {:else}
          <p class="rounded-lg border border-dashed border-line px-4 py-6 text-center text-soft">
            No tools yet. Choose some on the right: from tool servers and endpoints, flows, and other agents.
          </p>
        {/each}
      </div>
      {#if look.problem}<div class="mt-3"><Problem problem={look.problem} /></div>{/if}
      {#if look.result && look.result.suggestions.length > 0}
        <h3 class="mt-5 mb-2">{plural(look.result.suggestions.length, 'remark')} of the review</h3>
        <Suggestions suggestions={look.result.suggestions} busy={look.busy} apply={(id) => void look.run([id])} />
      {/if}
    </div>
    <div class="min-w-0 max-md:order-first">
      {#if tamed && rows[tamed.row]}
        {@const { row, tool } = tamed}
        {#key `${row} ${tool}`}
          <ConfigureTool
            {tool}
            schema={settingsSchema}
            settings={r.settingsOf(rows[row]!, tool)}
            path={[...path, row, ...('flow' in rows[row]! ? [] : ['tools', tool])]}
            {place}
            sent={sentOf(row, tool)}
            onChange={(next) => putRow(row, r.withSettings(rows[row]!, tool, next))}
          />
        {/key}
      {:else}
        <ToolPicker
          {choices}
          isOn={({ from, source, tool }) =>
            rows.some((row) => {
              const origin = r.originOf(row);
              return (
                origin?.from === from && origin.source === source && r.chosenOf(row, namesOf(row)).includes(tool)
              );
            })}
          onToggle={(choice, on) => {
            const known = choices.of(choice.from, choice.source).map(({ tool }) => tool);
            put(on ? r.withChoice(rows, choice, known) : r.withoutChoice(rows, choice, known));
          }}
        />
      {/if}
    </div>
  </div>
</Window>

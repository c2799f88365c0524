<script lang="ts">
import type { KindSummary } from '@pindro/contract/light';
import { isObject, type JsonObject, type JsonSchema } from '@pindro/core/browser';
import Fields from '../../forms/Fields.svelte';
import type { FieldPlace } from '../../forms/place.js';
import { reachable } from '../../forms/reach.js';
import { fieldsOf } from '../../forms/schema.js';
import Value from '../../values/Value.svelte';
import { stepsBefore } from '../revisions/before.js';
import FindTool from './FindTool.svelte';
import LinksEditor from '../flow/LinksEditor.svelte';
import ModelPreview from '../tools/ModelPreview.svelte';
import MoveTools from './MoveTools.svelte';
import ReviewTools from '../tools/ReviewTools.svelte';
import type { Editor } from '../session/session.svelte.js';
import StepActions from './StepActions.svelte';
import StepExtras from './StepExtras.svelte';
import StepName from './StepName.svelte';
import type { Trial } from '../try/trial.svelte.js';

/** Everything about one step: name, settings, predecessors, last output. */
let { editor, trial, step, kinds }: { editor: Editor; trial: Trial; step: string; kinds: KindSummary[] } = $props();
const uid = $props.id();
const now = $derived(editor.steps[step]!);
const kind = $derived(kinds.find((one) => one.name === now.kind));
const schema = $derived((kind?.schema ?? {}) as JsonSchema);
const config = $derived(isObject(now.with) ? now.with : {});
const path = $derived([...editor.at(step), 'with']);
const place = $derived<FieldPlace>({
  editor,
  expressions: true,
  lastInput: trial.lastInput,
  lastOutputs: trial.lastOutputs,
  mistakesAt: (at, deep) => editor.mistakesAt(at, deep),
  isCalm: (mistake) => editor.isCalm(mistake),
  begun: (at) => editor.begin(at),
  config,
  root: path,
  data: reachable({
    input: editor.document.input ?? {},
    before: stepsBefore(editor, step),
    lastInput: trial.lastInput,
    lastOutputs: trial.lastOutputs,
    inLoop: editor.place.length > 0,
  }),
});
const output = $derived(editor.place.length === 0 ? trial.lastOutputs[step] : undefined);
const own = $derived([...editor.mistakesAt(editor.at(step), false), ...editor.mistakesAt(path, false)]);

function change(next: JsonObject, name: string) {
  // Another operation takes other fields; what both take is kept.
  const known = name === 'do' ? new Set(fieldsOf(schema, next).map((field) => field.name)) : null;
  const kept = known ? Object.fromEntries(Object.entries(next).filter(([key]) => known.has(key))) : next;
  editor.change(step, { with: kept }, name);
}
</script>

<StepActions {editor} {trial} {step} {output} />
<StepName {editor} {step} />
{#each own as mistake, index (index)}
  {#if !place.isCalm(mistake)}
    <p class="fault mb-2">{mistake.message}{mistake.hint ? `. ${mistake.hint}` : ''}</p>
  {/if}
{/each}
{#each editor.warningsAt(editor.at(step)) as warning, index (index)}
  <p class="mb-2 text-sm text-ochre">{warning.message}{warning.hint ? `. ${warning.hint}` : ''}</p>
{/each}
{#if kind}
  {#key step}
    {#if now.kind === 'tool' && config.do !== 'list'}
      <FindTool {config} onChange={(next) => editor.change(step, { with: next }, 'tool')} />
    {/if}
    <Fields id={uid} {schema} value={config} {path} {place} plainFields={kind.plain} onChange={change} />
    {#if now.kind === 'agent' && Array.isArray(config.toolbox)}
      <ReviewTools {editor} at={editor.at(step)} />
      <MoveTools {editor} at={editor.at(step)} toolbox={config.toolbox} />
    {/if}
    {#if (now.kind === 'agent' || now.kind === 'model') && editor.place.length === 0}
      <ModelPreview {editor} {trial} {step} />
    {/if}
  {/key}
{/if}
<LinksEditor {editor} {step} />
<StepExtras {editor} {step} />
{#if output !== undefined}
  <h2 class="mb-1">Last output</h2>
  <div class="rounded-md bg-sunk p-3 text-sm"><Value value={output} name="last output" /></div>
{/if}

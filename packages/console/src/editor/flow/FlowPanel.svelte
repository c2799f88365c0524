<script lang="ts">
import type { Json, JsonSchema } from '@pindro/core/browser';
import Field from '../../forms/Field.svelte';
import type { FieldPlace } from '../../forms/place.js';
import { reachable } from '../../forms/reach.js';
import InputsForm from './InputsForm.svelte';
import type { Editor } from '../session/session.svelte.js';
import type { Trial } from '../try/trial.svelte.js';

/** The flow itself: its title, what it is for, its inputs, and what the caller gets. */
let { editor, trial }: { editor: Editor; trial: Trial } = $props();
const uid = $props.id();
const put = (name: string, value: Json | undefined) => editor.setValue([name], value === '' ? undefined : value);
const place = $derived<FieldPlace>({
  editor,
  expressions: true,
  lastInput: trial.lastInput,
  lastOutputs: trial.lastOutputs,
  mistakesAt: (path, deep) => editor.mistakesAt(path, deep),
  isCalm: (mistake) => editor.isCalm(mistake),
  begun: (at) => editor.begin(at),
  config: editor.document as unknown as Json,
  root: [],
  data: reachable({
    input: editor.document.input ?? {},
    before: editor.drawing.cards,
    lastInput: trial.lastInput,
    lastOutputs: trial.lastOutputs,
    inLoop: false,
  }),
});
const RESULT: JsonSchema = { title: 'Result', description: 'Result for the caller' };

function label(text: string) {
  const labels = text.split(',').flatMap((one) => one.trim() || []);
  put('labels', labels.length > 0 ? labels : undefined);
}
</script>

{#each editor.mistakesAt([], false) as mistake, index (index)}
  <p class="fault mb-3">{mistake.message}{mistake.hint ? `. ${mistake.hint}` : ''}</p>
{/each}
<label class="label" for="{uid}-title">Title</label>
<input
  id="{uid}-title"
  class="field mb-4"
  value={editor.document.title ?? ''}
  oninput={(event) => put('title', event.currentTarget.value)}
/>
<label class="label" for="{uid}-about">Description and when to use it</label>
<textarea
  id="{uid}-about"
  class="field mb-1"
  rows="3"
  value={editor.document.description ?? ''}
  oninput={(event) => put('description', event.currentTarget.value)}></textarea>
<p class="mb-4 text-sm text-soft">Models read this if the flow is a tool.</p>
<label class="label" for="{uid}-labels">Labels, separated by commas</label>
<input
  id="{uid}-labels"
  class="field mb-4"
  value={(editor.document.labels ?? []).join(', ')}
  onchange={(event) => label(event.currentTarget.value)}
/>
<InputsForm {editor} />
<div class="mt-5">
  <Field
    id="{uid}-result"
    label="Result"
    schema={RESULT}
    value={editor.document.result as Json | undefined}
    path={['result']}
    {place}
    required={false}
    plain={false}
    onChange={(value) => put('result', value)}
  />
</div>

<script lang="ts">
import type { Json } from '@pindro/core/browser';
import { reachable } from './data.js';
import InputsForm from './InputsForm.svelte';
import type { FieldPlace } from './place.js';
import type { Editor } from './session.svelte.js';
import type { Trial } from './trial.svelte.js';
import YamlField from './YamlField.svelte';

/** The flow itself: its title, what it is for, its inputs, and what the caller gets. */
let { editor, trial }: { editor: Editor; trial: Trial } = $props();
const uid = $props.id();
const put = (name: string, value: Json | undefined) => editor.setValue([name], value === '' ? undefined : value);
const place = $derived<FieldPlace>({
  editor,
  lastInput: trial.lastInput,
  lastOutputs: trial.lastOutputs,
  data: reachable({
    input: editor.document.input ?? {},
    before: editor.drawing.cards,
    lastInput: trial.lastInput,
    lastOutputs: trial.lastOutputs,
    inLoop: false,
  }),
  schemaAt: () => ({}),
});
</script>

<label class="label" for="{uid}-title">Title</label>
<input id="{uid}-title" class="field mb-4" value={editor.document.title ?? ''} oninput={(event) => put('title', event.currentTarget.value)} />
<label class="label" for="{uid}-about">What it does and when to use it</label>
<textarea id="{uid}-about" class="field mb-1" rows="3" value={editor.document.description ?? ''} oninput={(event) => put('description', event.currentTarget.value)}></textarea>
<p class="mb-4 text-sm text-soft">A model reads this when the flow is a tool.</p>
<label class="label" for="{uid}-labels">Labels, with commas between</label>
<input id="{uid}-labels" class="field mb-4" value={(editor.document.labels ?? []).join(', ')} onchange={(event) => { const labels = event.currentTarget.value.split(',').map((one) => one.trim()).filter(Boolean); put('labels', labels.length > 0 ? labels : undefined); }} />
<InputsForm {editor} />
<div class="mt-5"><YamlField id="{uid}-result" label="Result" about="What the caller gets" value={editor.document.result as Json | undefined} path={['result']} {place} required={false} plain={false} onChange={(value) => put('result', value)} /></div>

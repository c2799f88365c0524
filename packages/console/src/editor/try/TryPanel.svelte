<script lang="ts">
import type { FlowDetail, Outcome } from '@pindro/contract/light';
import type { JsonSchema } from '@pindro/core/browser';
import SchemaForm from '../../forms/SchemaForm.svelte';
import { sourceOfInput } from '../../forms/value-source.js';
import { api } from '../../state/api.js';
import { plural, words } from '../../state/format.js';
import { Action } from '../../state/resource.svelte.js';
import type { Editor } from '../session/session.svelte.js';
import type { Trial } from './trial.svelte.js';
import TryButtons from './TryButtons.svelte';
import TryListen from './TryListen.svelte';
import TryOutcome from './TryOutcome.svelte';
import TryStatus from './TryStatus.svelte';
import TrySamples from './TrySamples.svelte';

/** Trying the flow: inputs, running it as a whole or step by step, and the result. */
let { editor, trial, flow }: { editor: Editor; trial: Trial; flow: FlowDetail } = $props();
const schema = $derived((editor.document.input ?? { type: 'object', properties: {} }) as JsonSchema);
const live = new Action(() => api.runFlow({ name: editor.name, body: { input: trial.input, stage: 'live' } }));
const outcome = $derived<Outcome | null>(live.result && !trial.outcome ? live.result : trial.outcome);

function run(stepping = false) {
  live.result = undefined;
  void trial.run(stepping);
}
function runLive() {
  trial.outcome = null;
  void live.run();
}
</script>

<TrySamples {trial} />
<form
  onsubmit={(event) => {
    event.preventDefault();
    run();
  }}
>
  <SchemaForm
    {schema}
    bind:value={trial.input}
    source={(input) => sourceOfInput(editor.name, schema, input, trial.input)}
  />
  {#if trial.held.length > 0}
    <p class="mb-3 rounded-md bg-ochre-wash px-3 py-2 text-sm text-ochre">
      {plural(trial.held.length, 'step')} uses stubbed results: {trial.held.map(words).join(', ')}.
    </p>
  {/if}
  <TryButtons
    busy={trial.busy}
    liveBusy={live.busy}
    published={flow.revision !== null}
    onStepping={() => run(true)}
    onLive={runLive}
  />
</form>
<TryListen {trial} />
<TryStatus outcome={trial.outcome ? null : (live.result ?? null)} />
<TryOutcome {trial} {outcome} problem={trial.problem ?? live.problem} />

<script lang="ts">
import type { EntrySettings, FlowDetail, ProblemDetails } from '@pindro/contract/light';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import Fields from '../../forms/Fields.svelte';
import { plainPlace } from '../../forms/place.js';
import Problem from '../../parts/text/Problem.svelte';
import { NEW_WAY, waySchema } from './entry-point-schema.js';

interface Props {
  flow: FlowDetail;
  kind: EntrySettings['kind'];
  settings?: EntrySettings;
  path?: string;
  busy: boolean;
  problem: ProblemDetails | null;
  onSave: (settings: EntrySettings, path: string | undefined) => void;
}
/** Settings of an entry point. */
let { flow, kind, settings, path, busy, problem, onSave }: Props = $props();
const uid = $props.id();
// svelte-ignore state_referenced_locally
let given = $state.raw<JsonObject>(begun());
function begun(): JsonObject {
  const { kind: _, ...rest } = { ...NEW_WAY[kind], ...settings } as JsonObject;
  return kind === 'schedule' ? rest : { path: path ?? flow.name, ...rest };
}
function save() {
  const { path: own, ...rest } = given;
  onSave({ kind, ...rest } as EntrySettings, kind === 'schedule' ? undefined : String(own ?? ''));
}
</script>

<form
  onsubmit={(event) => {
    event.preventDefault();
    save();
  }}
>
  <Fields
    id={uid}
    schema={waySchema(kind, given, flow.input as JsonSchema)}
    value={given}
    path={[]}
    place={plainPlace(given)}
    plain
    onChange={(next) => (given = next)}
  />
  {#if problem}<div class="mb-4"><Problem {problem} /></div>{/if}
  <button class="button button-main" disabled={busy}>{busy ? 'Saving …' : settings ? 'Save' : 'Open'}</button>
</form>

<script lang="ts">
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import Fields from '../forms/Fields.svelte';
import { plainPlace } from '../forms/place.js';
import Problem from '../parts/text/Problem.svelte';
import type { Keyring } from './keyring.svelte.js';

interface Props {
  ring: Keyring;
  schema: JsonSchema;
  endpoint?: string;
  onMade?: () => void;
}
/** A new key with just what it needs. */
let { ring, schema, endpoint, onMade = () => {} }: Props = $props();
const uid = $props.id();
let given = $state.raw<JsonObject>({});

async function send() {
  if (!(await ring.issue.run(given, endpoint === undefined ? undefined : [endpoint]))) return;
  given = {};
  onMade();
}
</script>

<form
  onsubmit={(event) => {
    event.preventDefault();
    void send();
  }}
>
  <Fields
    id={uid}
    {schema}
    value={given}
    path={[]}
    place={plainPlace(given)}
    plain
    onChange={(next) => (given = next)}
  />
  {#if ring.issue.problem}<div class="mb-3"><Problem problem={ring.issue.problem} /></div>{/if}
  <button class="button button-main" disabled={ring.issue.busy || !given.caller}>Issue key</button>
</form>

<script lang="ts">
import type { Json, JsonSchema } from '@pindro/core/browser';
import { untrack } from 'svelte';
import Field from '../src/forms/Field.svelte';
import type { FieldPlace } from '../src/forms/place.js';

interface Props {
  schema: JsonSchema;
  value?: Json;
  expressions?: boolean;
  onKept: (value: Json | undefined) => void;
}
/** A field with a value of its own. */
let { schema, value, expressions = false, onKept }: Props = $props();
let now = $state.raw(untrack(() => value));
const place = $derived<FieldPlace>({
  editor: null,
  expressions,
  data: [{ path: 'input.hut', about: 'string', value: 'larch' }],
  lastInput: undefined,
  lastOutputs: {},
  mistakesAt: () => [],
  isCalm: () => false,
  begun: () => {},
  config: now ?? null,
  root: [],
});

function change(next: Json | undefined) {
  now = next;
  onKept(next);
}
</script>

<Field id="field" label="Thing" {schema} value={now} path={[]} {place} required plain={false} onChange={change} />

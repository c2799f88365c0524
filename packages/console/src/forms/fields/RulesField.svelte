<script lang="ts">
import { isObject, type Json, type JsonSchema, supplierOf } from '@pindro/core/browser';
import type { Snippet } from 'svelte';
import FieldFrame from '../FieldFrame.svelte';
import { ruledSchemaAt, serverRulesAt, valuesAt } from '../known.svelte.js';
import type { FieldPlace, FieldProps } from '../place.js';
import RuleField from '../RuleField.svelte';

/** Who supplies each argument of a tool: the model, the builder, or nobody. */
let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
const rules = $derived(isObject(props.value) ? props.value : {});
const expected = $derived(ruledSchemaAt(props.place, props.path));
const properties = $derived(isObject(expected?.properties) ? expected.properties : {});
const required = $derived(Array.isArray(expected?.required) ? expected.required.map(String) : []);
const names = $derived([...new Set([...Object.keys(properties), ...Object.keys(rules)])]);
let fresh = $state('');
const shared = $derived(serverRulesAt(props.place, props.path));
/** Values that are set are chosen where something lists them. */
const place = $derived<FieldPlace>({
  ...props.place,
  values: (path) =>
    path.at(-1) === 'set' && path.length === props.path.length + 2
      ? valuesAt(props.place, props.path, String(path.at(-2)), {})
      : null,
});

function put(name: string, rule: Json | undefined) {
  const { [name]: _, ...rest } = rules;
  const next = rule === undefined ? rest : name in rules ? { ...rules, [name]: rule } : { ...rest, [name]: rule };
  props.onChange(Object.keys(next).length > 0 ? next : undefined);
}
function add() {
  if (fresh.trim() === '') return;
  put(fresh.trim(), { set: '' });
  fresh = '';
}
</script>

<FieldFrame {...props} {tools} group>
  {#each names as name (name)}
    <RuleField
      {...props}
      {place}
      id="{props.id}-{name}"
      label={name}
      schema={(properties[name] ?? {}) as JsonSchema}
      known={name in properties}
      needed={required.includes(name)}
      value={rules[name]}
      server={shared.server}
      shared={supplierOf(name, shared.rules)}
      path={[...props.path, name]}
      onChange={(rule) => put(name, rule)}
    />
  {:else}
    {#if expected}<p class="text-sm text-soft">The tool has no arguments.</p>{/if}
  {/each}
  {#if !expected}
    <p class="mb-2 text-sm text-soft">Its arguments are not known yet; name one to set who supplies it.</p>
    <div class="flex gap-2">
      <label class="sr-only" for="{props.id}-new">Name of an argument</label>
      <input id="{props.id}-new" class="field py-1 font-mono" placeholder="argument" bind:value={fresh} />
      <button type="button" class="button button-small" onclick={add} disabled={fresh.trim() === ''}>Add</button>
    </div>
  {/if}
</FieldFrame>

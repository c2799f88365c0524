<script lang="ts">
import Plus from '@lucide/svelte/icons/plus';
import type { Json, JsonObject, JsonSchema } from '@pindro/core/browser';
import { humanDefault } from './defaults.js';
import Field from './Field.svelte';
import type { FieldPlace } from './place.js';
import { aboutOf, type FormField, fieldsOf, labelOf } from './schema.js';
import { blankOf, shapeOf } from './shape.js';

interface Props {
  id: string;
  schema: JsonSchema;
  value: JsonObject;
  path: PropertyKey[];
  place: FieldPlace;
  /** Names of fields that hold no expressions. */
  plainFields?: string[];
  plain?: boolean;
  /** Whether all fields are shown where none is required and they are few. */
  shownAlone?: boolean;
  onChange: (value: JsonObject, name: string) => void;
}
/** The fields of an object: what is needed or usual first, the rest folded away with what it would do. */
let {
  id,
  schema,
  value,
  path,
  place,
  plainFields = [],
  plain = false,
  shownAlone = false,
  onChange,
}: Props = $props();
const fields = $derived(fieldsOf(schema, value));
const FEW = 8;
const isAlone = $derived(
  shownAlone && fields.length <= FEW && !fields.some((field) => field.required || field.common),
);
/** Fields that somebody unfolded. */
let opened = $state.raw<string[]>([]);
const isShown = (field: FormField) =>
  isAlone || field.required || field.common || value[field.name] !== undefined || opened.includes(field.name);
const rest = $derived(fields.filter((field) => !isShown(field)));

function change(field: FormField, next: Json | undefined) {
  const { [field.name]: _, ...others } = value;
  if (next === undefined) return onChange(others, field.name);
  // Existing keys keep their order, so that the document reads as before.
  onChange(field.name in value ? { ...value, [field.name]: next } : { ...others, [field.name]: next }, field.name);
}
function unfold(field: FormField) {
  opened = [...opened, field.name];
  if (shapeOf(field.schema).sort !== 'group') return;
  place.begun([...path, field.name]);
  change(field, blankOf(field.schema));
}
</script>

{#each fields.filter(isShown) as field (field.name)}
  <Field
    id="{id}-{field.name}"
    label={labelOf(field.name, field.schema)}
    schema={field.schema}
    value={value[field.name]}
    path={[...path, field.name]}
    {place}
    required={field.required}
    plain={plain || plainFields.includes(field.name)}
    onChange={(next) => change(field, next)}
  />
{/each}
{#if rest.length > 0}
  <details class="mb-4">
    <summary class="field-more">More: {rest.map((field) => labelOf(field.name, field.schema)).join(', ')}</summary>
    <ul class="mt-1">
      {#each rest as field (field.name)}
        <li>
          <button type="button" class="field-add" onclick={() => unfold(field)}>
            <Plus size={15} class="mt-0.5 shrink-0 text-spruce" aria-hidden="true" />
            <span>
              <span class="font-medium">{labelOf(field.name, field.schema)}</span>
              <span class="block text-sm text-soft">{aboutOf(field.schema)}{humanDefault(field.schema)}</span>
            </span>
          </button>
        </li>
      {/each}
    </ul>
  </details>
{/if}

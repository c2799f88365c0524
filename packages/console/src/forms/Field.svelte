<script lang="ts">
import { type Component, type Snippet, tick } from 'svelte';
import AlternativesField from './fields/AlternativesField.svelte';
import AnyField from './fields/AnyField.svelte';
import BranchesField from './fields/BranchesField.svelte';
import ChoiceField from './fields/ChoiceField.svelte';
import ConditionsField from './fields/ConditionsField.svelte';
import DurationField from './fields/DurationField.svelte';
import ArgumentsField from './fields/ArgumentsField.svelte';
import GroupField from './fields/GroupField.svelte';
import ListField from './fields/ListField.svelte';
import RecordField from './fields/RecordField.svelte';
import ReferenceField from './fields/ReferenceField.svelte';
import RulesField from './fields/RulesField.svelte';
import SchemaField from './fields/SchemaField.svelte';
import SeveralField from './fields/SeveralField.svelte';
import StepsField from './fields/StepsField.svelte';
import ToolboxField from './fields/ToolboxField.svelte';
import TextField from './fields/TextField.svelte';
import UnionField from './fields/UnionField.svelte';
import YamlField from './fields/YamlField.svelte';
import YesNoField from './fields/YesNoField.svelte';
import CreateInput from './CreateInput.svelte';
import SelectValue from './SelectValue.svelte';
import SuppliedBy from './SuppliedBy.svelte';
import { type Supplier, supplierOfValue } from './supplied-by.js';
import YamlTool from './YamlTool.svelte';
import type { FieldProps } from './place.js';
import { type Shape, shapeOf } from './shape.js';

/** One field, by the shape that its schema asks for, with who supplies its value; as YAML where somebody wants that. */
let props: FieldProps = $props();

/** A new shape is one component and one line here. */
const COMPONENTS: Record<Shape['sort'], Component<FieldProps & { tools?: Snippet }>> = {
  text: TextField,
  scalar: TextField,
  number: TextField,
  condition: TextField,
  'yes-no': YesNoField,
  choice: ChoiceField,
  several: SeveralField,
  duration: DurationField,
  reference: ReferenceField,
  group: GroupField,
  list: ListField,
  record: RecordField,
  union: UnionField,
  conditions: ConditionsField,
  alternatives: AlternativesField,
  branches: BranchesField,
  steps: StepsField,
  given: ArgumentsField,
  toolbox: ToolboxField,
  rules: RulesField,
  schema: SchemaField,
  any: AnyField,
};
/** What is a text anyhow takes expressions as it is. */
const TEXTS: Shape['sort'][] = ['text', 'scalar', 'number', 'condition', 'any'];
/** What may be chosen out of a list. */
const SELECTABLE: Shape['sort'][] = ['text', 'scalar', 'number', 'any'];
const NESTED: Shape['sort'][] = [
  ...(['group', 'list', 'record', 'union', 'conditions', 'alternatives', 'branches'] as const),
  ...(['given', 'toolbox', 'rules', 'schema', 'any', 'steps'] as const),
];

const shape = $derived(shapeOf(props.schema));
const source = $derived(SELECTABLE.includes(shape.sort) ? (props.place.values?.(props.path) ?? null) : null);
const isWritten = $derived(
  typeof props.value === 'string' && props.value.includes('${') && !TEXTS.includes(shape.sort),
);
let view = $state<'form' | 'expression' | 'yaml'>('form');
const shown = $derived(view === 'form' && isWritten ? 'expression' : view);
/** A condition is an expression anyhow. */
const mayWrite = $derived(props.place.expressions && !props.plain && !props.isWay && shape.sort !== 'condition');
/** Whether the input that is to supply it is being named. */
let asking = $state(false);
const written = $derived(supplierOfValue(props.value));
const supplier = $derived(
  asking ? 'caller' : shown === 'expression' && written === 'value' ? 'expression' : written,
);
const choices = $derived<Supplier[]>(['value', 'expression', ...(props.place.editor ? (['caller'] as const) : [])]);

function supply(next: Supplier) {
  asking = next === 'caller';
  if (asking) return;
  // An expression does not become fields; what was written stays until something else is chosen.
  if (next === 'value' && written !== 'value') props.onChange(undefined);
  view = next === 'expression' ? 'expression' : 'form';
  // With the focus, the field offers what an expression can name.
  if (next === 'expression') void tick().then(() => document.getElementById(props.id)?.focus());
}
</script>

{#snippet tools()}
  {#if source}<SelectValue label={props.label} {source} onSelect={props.onChange} />{/if}
  {#if mayWrite}<SuppliedBy label={props.label} value={supplier} {choices} onChange={supply} />{/if}
  {#if NESTED.includes(shape.sort)}<YamlTool
      label={props.label}
      isOpen={shown === 'yaml'}
      onToggle={() => (view = shown === 'yaml' ? 'form' : 'yaml')}
    />{/if}
{/snippet}

{#if shown === 'yaml'}
  <YamlField {...props} {tools} />
{:else if shown === 'expression'}
  <TextField {...props} {tools} />
{:else}
  {@const Shown = COMPONENTS[shape.sort]}
  <Shown {...props} isWay={false} {tools} />
{/if}
{#if asking && props.place.editor}
  <CreateInput
    label={props.label}
    path={props.path}
    editor={props.place.editor}
    schema={props.schema}
    onDone={() => (asking = false)}
  />
{/if}

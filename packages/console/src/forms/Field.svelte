<script lang="ts">
import type { Component } from 'svelte';
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
import FieldTools from './FieldTools.svelte';
import SelectValue from './SelectValue.svelte';
import type { FieldProps } from './place.js';
import { type Shape, shapeOf } from './shape.js';

/** One field, by the shape that its schema asks for; as an expression or as YAML where somebody wants that. */
let props: FieldProps = $props();

/** A new shape is one component and one line here. */
const COMPONENTS: Record<Shape['sort'], Component<FieldProps & { tools?: unknown }>> = {
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
} as never;
/** What is a text anyhow takes expressions as it is. */
const TEXTS: Shape['sort'][] = ['text', 'scalar', 'number', 'condition', 'reference', 'any'];
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
const mayWrite = $derived(props.place.expressions && !props.plain && !TEXTS.includes(shape.sort));

function change(next: typeof view) {
  // An expression does not become fields; what was written stays until something else is chosen.
  if (shown === 'expression' && next === 'form' && isWritten) props.onChange(undefined);
  view = next;
}
</script>

{#snippet tools()}
  {#if source}<SelectValue label={props.label} {source} onSelect={props.onChange} />{/if}
  <FieldTools
    label={props.label}
    view={shown}
    expression={mayWrite}
    yaml={NESTED.includes(shape.sort)}
    onView={change}
  />
{/snippet}

{#if shown === 'yaml'}
  <YamlField {...props} {tools} />
{:else if shown === 'expression'}
  <TextField {...props} {tools} />
{:else}
  {@const Shown = COMPONENTS[shape.sort]}
  <Shown {...props} {tools} />
{/if}

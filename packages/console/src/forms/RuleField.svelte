<script lang="ts">
import { kept } from './blank.js';
import { type ArgumentSupplier, describeType, isObject, type Json, supplierWords } from '@pindro/core/browser';
import Field from './Field.svelte';
import type { FieldProps } from './place.js';
import { aboutOf } from './schema.js';
import { blankOf } from './shape.js';
import SuppliedBy from './SuppliedBy.svelte';
import type { Supplier } from './supplied-by.js';

interface Props extends FieldProps {
  /** Whether the tool has such an argument. */
  known: boolean;
  /** Whether the tool cannot do without it. */
  needed: boolean;
  /** The tool server, and who supplies the argument by its rules where none stands here. */
  server: string;
  shared: ArgumentSupplier;
}
/** One argument of a tool and who supplies it. */
let { known, needed, server, shared, ...props }: Props = $props();
type Who = 'ask' | 'set' | 'omit' | 'server';
const rule = $derived(props.value);
const isShared = $derived(shared.how !== 'asked');
const who = $derived<Who>(whoOf(rule));
function whoOf(rule: Json | undefined): Who {
  if (rule === undefined && isShared) return 'server';
  return rule === 'omit' ? 'omit' : isObject(rule) && 'set' in rule ? 'set' : 'ask';
}
const asked = $derived(isObject(rule) && isObject(rule.ask) ? rule.ask : {});

const SUPPLIER: Record<Who, Supplier> = { ask: 'caller', set: 'value', omit: 'nobody', server: 'rule' };
const choices = $derived<Supplier[]>([
  ...(isShared ? (['rule'] as const) : []),
  ...(['caller', 'value'] as const),
  ...(needed ? [] : (['nobody'] as const)),
]);

function choose(next: Supplier) {
  if (next === 'nobody') props.onChange('omit');
  else if (next === 'value') props.onChange({ set: blankOf(props.schema) });
  else if (next === 'caller' && isShared) props.onChange('ask');
  else props.onChange(undefined);
}
function word(description: string) {
  const { description: _, ...rest } = asked;
  const next: { [key: string]: Json } = description.trim() === '' ? rest : { ...rest, description };
  props.onChange(Object.keys(next).length > 0 ? { ask: next } : isShared ? 'ask' : undefined);
}
</script>

<div class="rule">
  <div class="flex flex-wrap items-baseline justify-between gap-2">
    <p class="min-w-0">
      <span class="font-mono font-medium">{props.label}</span>
      <span class="text-sm text-soft">{describeType(props.schema)}{needed ? ', required' : ''}</span>
    </p>
    <SuppliedBy label={props.label} value={SUPPLIER[who]} {choices} {server} onChange={choose} />
  </div>
  {#if !known}<p class="fault">The tool has no such argument.</p>{/if}
  {#if who === 'set'}
    <div class="mt-2">
      <Field
        {...props}
        label="Value of {props.label}"
        value={isObject(rule) ? rule.set : undefined}
        path={[...props.path, 'set']}
        required
        onChange={(next) => props.onChange({ set: kept(next) })}
      />
    </div>
  {:else if who === 'server'}
    <p class="text-sm text-soft">{supplierWords(shared, server)}</p>
  {:else if who === 'ask'}
    <label class="sr-only" for="{props.id}-words">Description of {props.label}</label>
    <input
      id="{props.id}-words"
      class="field mt-2 py-1 text-sm"
      value={String(asked.description ?? '')}
      placeholder={aboutOf(props.schema) || 'description for the model'}
      onchange={(event) => word(event.currentTarget.value)}
    />
  {:else}
    <p class="text-sm text-soft">Neither offered to the model nor sent.</p>
  {/if}
</div>

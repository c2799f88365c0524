<script lang="ts">
import { kept } from '../blank.js';
import ArrowUp from '@lucide/svelte/icons/arrow-up';
import Trash from '@lucide/svelte/icons/trash-2';
import { isObject, type Json } from '@pindro/core/browser';
import type { Snippet } from 'svelte';
import Field from '../Field.svelte';
import FieldFrame from '../FieldFrame.svelte';
import type { FieldProps } from '../place.js';

/** Ways that a step can go, tried in their order: a name, and when it is gone. */
let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
const ways = $derived(Object.entries(isObject(props.value) ? props.value : {}));
const NAME = /^[a-z][a-z0-9_]*$/;
let wrong = $state('');

const put = (next: [string, Json][]) => props.onChange(Object.fromEntries(next));
function rename(at: number, name: string) {
  wrong = !NAME.test(name)
    ? 'Lower-case letters, digits and _, starting with a letter.'
    : ways.some(([other], index) => index !== at && other === name)
      ? 'A branch with this name already exists.'
      : '';
  const { editor } = props.place;
  if (wrong !== '') return;
  const old = ways[at]![0];
  put(ways.map(([other, when], index) => (index === at ? [name, when] : [other, when])));
  // Steps that follow the branch keep following it.
  const step = String(props.path.at(-3));
  editor?.renameBranch(step, old, name);
}
function up(at: number) {
  const next = [...ways];
  next.splice(at - 1, 0, ...next.splice(at, 1));
  put(next);
}
function add() {
  let count = ways.length + 1;
  while (ways.some(([name]) => name === `way_${count}`)) count++;
  put([...ways, [`way_${count}`, '']]);
}
</script>

<FieldFrame {...props} {tools} group>
  <ol>
    {#each ways as [name, when], index (index)}
      <li class="field-nested">
        <div class="mb-2 flex items-center gap-2">
          <label class="font-medium" for="{props.id}-{index}-name">Branch</label>
          <input
            id="{props.id}-{index}-name"
            class="field py-1 font-mono"
            value={name}
            onchange={(event) => rename(index, event.currentTarget.value)}
          />
          {#if index > 0}
            <button type="button" class="field-tool" aria-label="Try {name} earlier" onclick={() => up(index)}>
              <ArrowUp size={15} aria-hidden="true" />
            </button>
          {/if}
          <button
            type="button"
            class="field-tool"
            aria-label="Remove {name}"
            onclick={() => put(ways.filter((_, at) => at !== index))}><Trash size={15} aria-hidden="true" /></button
          >
        </div>
        <Field
          id="{props.id}-{index}"
          label="Condition"
          schema={{ form: 'condition', examples: ['${ input.party > 10 }'] }}
          value={when}
          path={[...props.path, name]}
          place={props.place}
          required
          plain={false}
          onChange={(next) => put(ways.map((old, at) => (at === index ? [name, kept(next)] : old)))}
        />
      </li>
    {/each}
  </ol>
  {#if wrong}<p class="fault mb-2">{wrong}</p>{/if}
  <button type="button" class="button button-small" onclick={add}>Add a branch</button>
</FieldFrame>

<script lang="ts">
import type { Snippet } from 'svelte';
import { Resource } from '../../state/resource.svelte.js';
import FieldFrame from '../FieldFrame.svelte';
import MakeHere from '../MakeHere.svelte';
import type { FieldProps } from '../place.js';
import { withArticle } from '../../state/format.js';
import { canMake, namesFor, wordFor } from '../references.js';
import { shapeOf } from '../shape.js';

/** The name of something of the workspace: chosen, or made right here. */
let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
const shape = $derived(shapeOf(props.schema));
const sort = $derived(shape.sort === 'reference' ? shape.of : '');
// svelte-ignore state_referenced_locally
const names = new Resource(() => namesFor(sort), ['table', 'flow', 'server', 'model', 'credential', 'endpoint']);
let making = $state(false);
const text = $derived(typeof props.value === 'string' ? props.value : '');
const offered = $derived(names.value ?? []);
/** The selected name is available before the list is loaded. */
const isOther = $derived(text !== '' && !offered.includes(text));
const unknown = $derived(isOther && names.value !== undefined);
const faulty = $derived(props.place.mistakesAt(props.path).some((one) => !props.place.isCalm(one)));
const put = (next: string) => props.onChange(next || undefined);
</script>

<FieldFrame {...props} {tools}>
  <div class="flex gap-2">
    <select
      id={props.id}
      class="field {faulty ? 'field-faulty' : ''}"
      value={text}
      onchange={(event) => put(event.currentTarget.value)}
      aria-describedby="{props.id}-about"
      aria-invalid={faulty}
    >
      <option value="">{props.required ? `choose ${withArticle(wordFor(sort))} …` : 'none'}</option>
      {#if isOther}<option value={text}>{text}</option>{/if}
      {#each offered as name (name)}<option value={name}>{name}</option>{/each}
    </select>
    {#if canMake(sort)}
      <button
        type="button"
        class="button button-small shrink-0"
        aria-expanded={making}
        onclick={() => (making = !making)}>New …</button
      >
    {/if}
  </div>
  {#if unknown}<p class="text-sm text-ochre">No {wordFor(sort)} “{text}” yet.</p>{/if}
  {#if making}
    <MakeHere
      {sort}
      onMade={(name) => {
        making = false;
        put(name);
      }}
    />
  {/if}
</FieldFrame>

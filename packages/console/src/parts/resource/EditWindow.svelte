<script lang="ts">
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import type { Snippet } from 'svelte';
import Fields from '../../forms/Fields.svelte';
import { plainPlace } from '../../forms/place.js';
import { Action } from '../../state/resource.svelte.js';
import Problem from '../text/Problem.svelte';
import Window from '../text/Window.svelte';

interface Props {
  open: boolean;
  title: string;
  about?: string;
  schema: JsonSchema;
  value: JsonObject;
  /** Keeps what was changed. @param force also where it could not be tried */
  save: (value: JsonObject, force: boolean) => Promise<unknown>;
  /** Whether it is tried before it is kept, so that one may insist. */
  tried?: boolean;
  children?: Snippet;
}
/** A thing's settings as a form, kept when they are saved. */
let { open = $bindable(), title, about, schema, value, save, tried = false, children }: Props = $props();
const uid = $props.id();
// svelte-ignore state_referenced_locally
let given = $state.raw<JsonObject>(value);
const keep = new Action(async (force: boolean) => {
  await save(given, force);
  open = false;
});
</script>

<Window bind:open {title} {...{ about }}>
  <form
    onsubmit={(event) => {
      event.preventDefault();
      void keep.run(false);
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
    {#if keep.problem}<div class="mb-3"><Problem problem={keep.problem} /></div>{/if}
    <div class="flex flex-wrap gap-2">
      <button class="button button-main" disabled={keep.busy}>{keep.busy ? 'Saving …' : 'Save'}</button>
      {#if tried && keep.problem}
        <button type="button" class="button" disabled={keep.busy} onclick={() => void keep.run(true)}>
          Save even if it does not respond
        </button>
      {/if}
    </div>
  </form>
  {@render children?.()}
</Window>

<script lang="ts">
import resources from 'virtual:pindro-resources';
import type { ResourceName, SavedValue } from '@pindro/contract/light';
import { canonical, type Json } from '@pindro/core/browser';
import ThingMenu from '../parts/resource/ThingMenu.svelte';
import Problem from '../parts/text/Problem.svelte';
import { Action, Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';
import { savedOf } from './saved.js';

interface Props {
  resource: ResourceName;
  /** What is shown now: the fields of the resource. */
  value: Record<string, unknown>;
  /** Whether there is anything to save now. */
  some?: boolean;
  onChoose: (value: Record<string, unknown> | null) => void;
}
/** Values that are saved under a name, such as filters of runs: apply one, save the present one, see all. */
let { resource, value, some = true, onChoose }: Props = $props();
// svelte-ignore state_referenced_locally
const { words, plural } = resources[resource];
// svelte-ignore state_referenced_locally
const operations = savedOf(resource);
// svelte-ignore state_referenced_locally
const saved = new Resource(() => operations.list(), [resource]);
const items = $derived(saved.value?.items ?? []);
const chosen = $derived(items.find((one) => same(one)));
let name = $state('');
let naming = $state(false);

const same = (one: SavedValue) =>
  Object.keys(value).every((field) => canonical(one[field] as Json) === canonical(value[field] as Json));
const keep = new Action(async () => {
  await operations.save(name.trim(), value);
  naming = false;
  name = '';
  await saved.refresh();
});
const fieldsOf = ({ name: _, by: __, at: ___, ...fields }: SavedValue) => fields;

/** The name in a link to a saved value, as a search leads to it. */
const linked = $derived(router.query.get(resource));
$effect(() => {
  const wanted = items.find((one) => one.name === linked);
  if (wanted) onChoose(fieldsOf(wanted));
});
const uid = $props.id();
</script>

<div class="flex flex-wrap items-end gap-3">
  {#if items.length > 0}
    <div>
      <label class="label" for="{uid}-saved">Saved {plural}</label>
      <select
        id="{uid}-saved"
        class="field w-auto"
        value={chosen?.name ?? ''}
        onchange={(event) => {
          const wanted = items.find((one) => one.name === event.currentTarget.value);
          onChoose(wanted ? fieldsOf(wanted) : null);
        }}
      >
        <option value="">none</option>
        {#each items as one (one.name)}<option value={one.name}>{one.name}</option>{/each}
      </select>
    </div>
  {/if}
  {#if naming}
    <div>
      <label class="label" for="{uid}-name">Name of the {words}</label>
      <input
        id="{uid}-name"
        class="field"
        maxlength="60"
        bind:value={name}
        onkeydown={(event) => event.key === 'Enter' && name.trim() && void keep.run()}
      />
    </div>
    <button
      type="button"
      class="button button-small"
      disabled={keep.busy || name.trim() === ''}
      onclick={() => void keep.run()}>Save</button
    >
  {:else if chosen}
    <ThingMenu sort={resource} name={chosen.name} />
  {:else if some}
    <button type="button" class="button button-small" onclick={() => (naming = true)}>Save {words}</button>
  {/if}
  {#if items.length > 0}<a class="link text-sm" href="/saved/{plural}">All saved {plural}</a>{/if}
</div>
{#if saved.problem}<Problem problem={saved.problem} />{/if}
{#if saved.value && linked !== null && !items.some((one) => one.name === linked)}
  <p class="text-ochre" role="status">There is no {words} named “{linked}”. It may have been removed.</p>
{/if}
{#if keep.problem}<Problem problem={keep.problem} />{/if}

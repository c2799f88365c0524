<script lang="ts">
import Problem from '../parts/text/Problem.svelte';
import { api } from '../state/api.js';
import { Action, Resource } from '../state/resource.svelte.js';

interface Props {
  /** What is looked for now, as the API takes it. */
  query: Record<string, string>;
  onChoose: (query: Record<string, string>) => void;
}
/** Saved run filters: apply, save, remove. */
let { query, onChoose }: Props = $props();
const saved = new Resource(() => api.listFilters(), ['filter']);
const same = (one: Record<string, string>) =>
  JSON.stringify(Object.entries(one).sort()) === JSON.stringify(Object.entries(query).sort());
const chosen = $derived(saved.value?.items.find((one) => same(one.query)));
let name = $state('');
let naming = $state(false);
const keep = new Action(async () => {
  await api.saveFilter({ name: name.trim(), body: { query } });
  naming = false;
  await saved.refresh();
});
const remove = new Action(async (which: string) => {
  await api.removeFilter({ name: which });
  await saved.refresh();
});
const uid = $props.id();
</script>

<div class="flex flex-wrap items-end gap-3">
  {#if saved.value && saved.value.items.length > 0}
    <div>
      <label class="label" for="{uid}-saved">Saved</label>
      <select
        id="{uid}-saved"
        class="field w-auto"
        value={chosen?.name ?? ''}
        onchange={(event) => {
          const { value } = event.currentTarget;
          onChoose(saved.value?.items.find((one) => one.name === value)?.query ?? {});
        }}
      >
        <option value="">none</option>
        {#each saved.value.items as one (one.name)}<option value={one.name}>{one.name}</option>{/each}
      </select>
    </div>
  {/if}
  {#if chosen}
    <button
      type="button"
      class="button button-small"
      disabled={remove.busy}
      onclick={() => void remove.run(chosen.name)}>Remove filter “{chosen.name}”</button
    >
  {:else if naming}
    <div>
      <label class="label" for="{uid}-name">Name of the filter</label>
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
  {:else if Object.keys(query).length > 0}
    <button type="button" class="button button-small" onclick={() => (naming = true)}>Save filters</button>
  {/if}
</div>
{#if keep.problem}<Problem problem={keep.problem} />{/if}
{#if remove.problem}<Problem problem={remove.problem} />{/if}

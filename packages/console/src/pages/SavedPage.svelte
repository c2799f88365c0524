<script lang="ts">
import resources from 'virtual:pindro-resources';
import type { ResourceName } from '@pindro/contract/light';
import ResourceList from '../parts/list/ResourceList.svelte';
import NameCell from '../parts/list/NameCell.svelte';
import When from '../parts/text/When.svelte';
import { savedOf } from '../saved/saved.js';
import { Resource } from '../state/resource.svelte.js';
import { placeOf } from '../parts/shell/places.js';
import { addressOf } from '../state/things.js';
import NotFound from './NotFound.svelte';

/** All values of a resource that is a name with fields: its columns derive from the fields. */
let { name }: { name: string } = $props();
// svelte-ignore state_referenced_locally
const type = (Object.keys(resources) as ResourceName[]).find(
  (one) => resources[one].plural === name && resources[one].schema !== undefined,
);
const resource = type && resources[type];
const saved = type && new Resource(() => savedOf(type).list(), [type]);
const fields = Object.entries(resource?.schema?.properties ?? {}) as [string, { title?: string }][];
const shown = (value: unknown) =>
  value !== null && typeof value === 'object'
    ? Object.entries(value)
        .map(([key, one]) => `${key} ${one}`)
        .join(', ')
    : String(value ?? '');
</script>

{#if type && resource && saved}
  <ResourceList
    {type}
    title="Saved {resource.plural}"
    about="Values saved under a name. Everyone in the workspace sees them."
    from={saved}
    headings={['Name', ...fields.map(([field, { title }]) => title ?? field), 'Saved by', 'Saved']}
    words={(one) => [one.name, one.by]}
  >
    {#snippet empty()}
      Save one on the page <a class="link" href={resource.list}>{placeOf(resource.list ?? '/').label}</a>.
    {/snippet}
    {#snippet cells(one)}
      <td><NameCell sort={type} name={one.name} href={addressOf(type, one.name) ?? '/'} /></td>
      {#each fields as [field] (field)}<td>{shown(one[field])}</td>{/each}
      <td class="text-soft">{one.by}</td>
      <td class="whitespace-nowrap text-soft"><When at={one.at} /></td>
    {/snippet}
  </ResourceList>
{:else}
  <NotFound {name} />
{/if}

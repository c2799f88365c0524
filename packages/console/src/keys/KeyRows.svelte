<script lang="ts">
import type { KeySummary } from '@pindro/contract/light';
import Code from '../parts/text/Code.svelte';
import EditWindow from '../parts/resource/EditWindow.svelte';
import NameCell from '../parts/list/NameCell.svelte';
import Problem from '../parts/text/Problem.svelte';
import Rows from '../parts/list/Rows.svelte';
import State from '../parts/text/State.svelte';
import When from '../parts/text/When.svelte';
import { removing } from '../state/removing.svelte.js';
import { router } from '../state/router.svelte.js';
import KeyMenu from './KeyMenu.svelte';
import type { Keyring } from './keyring.svelte.js';
import { keySchema, limitsOf, valueOfKey } from './schema.js';

interface Props {
  keys: KeySummary[];
  ring: Keyring;
  /** Whether to list endpoints too. */
  everywhere?: boolean;
}
/** Keys and what each may do. */
let { keys, ring, everywhere = false }: Props = $props();
let chosen = $state(router.query.get('open'));
const opened = $derived(keys.find((one) => one.id === chosen));
const isOver = (key: KeySummary) =>
  key.revokedAt !== null || (key.expiresAt !== null && Date.parse(key.expiresAt) < Date.now());
const headings = $derived([
  'Key',
  'Caller',
  ...(everywhere ? ['Access to'] : []),
  'Stage',
  'Limits',
  'Last used',
  '',
]);
</script>

{#if ring.problem}<div class="mb-4"><Problem problem={ring.problem} /></div>{/if}
{#if ring.made}
  <p class="mb-1 font-medium" role="status">
    Key for {ring.made.summary.caller}. Copy it now; it is not shown again.
  </p>
  <div class="mb-6"><Code text={ring.made.key} label="key" secret={ring.made.key} /></div>
{/if}
<Rows
  label="Keys"
  {headings}
  items={keys}
  remove={(one) => void removing.remove('key', one.id, undefined, one.name)}
>
  {#snippet row(key)}
    <td>
      <NameCell sort="key" name={key.id} title={key.name} onOpen={() => (chosen = key.id)} />
      <span class="block font-mono text-sm text-soft">{key.beginning}</span>
      {#if isOver(key)}<State state="failed" label={key.revokedAt ? 'revoked' : 'expired'} />{/if}
    </td>
    <td>
      {key.caller}
      {#each Object.entries(key.attributes) as [name, value] (name)}
        <span class="block text-sm text-soft">{name}: {String(value)}</span>
      {/each}
    </td>
    {#if everywhere}
      <td class="text-sm">
        {#each key.endpoints as endpoint (endpoint)}
          {#if endpoint === '*'}all endpoints{:else}<a class="link" href="/endpoints/{endpoint}">{endpoint}</a
            >{/if}{' '}
        {/each}
      </td>
    {/if}
    <td>{key.stage === 'draft' ? 'drafts' : 'live'}</td>
    <td class="text-sm">{limitsOf(key)}</td>
    <td class="whitespace-nowrap text-soft"><When at={key.lastUsedAt} /></td>
    <td><KeyMenu {key} {ring} /></td>
  {/snippet}
</Rows>
{#if opened}
  <EditWindow
    bind:open={() => true, () => (chosen = null)}
    title="Key {opened.name}"
    about="Its holder keeps using it."
    schema={keySchema({ tools: [], ownServers: Object.keys(opened.credentials), workshop: opened.propose })}
    value={valueOfKey(opened)}
    save={ring.change(opened.id)}
  />
{/if}

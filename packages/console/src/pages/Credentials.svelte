<script lang="ts">
import Empty from '../parts/Empty.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import Problem from '../parts/Problem.svelte';
import Rows from '../parts/Rows.svelte';
import SidePanel from '../parts/SidePanel.svelte';
import { api } from '../state/api.js';
import { moment } from '../state/format.js';
import { Action, Resource } from '../state/resource.svelte.js';

type Kind = 'bearer' | 'header' | 'basic';
const credentials = new Resource(() => api.listCredentials(), ['credential', 'server', 'model', 'flow']);
const empty = { name: '', kind: 'bearer' as Kind, header: '', account: '', secret: '' };
let given = $state({ ...empty });
const add = new Action(() =>
  api.addCredential({
    body: {
      name: given.name,
      kind: given.kind,
      account: given.account,
      secret: given.secret,
      ...(given.kind === 'header' && { header: given.header }),
    },
  }),
);
const remove = new Action((name: string) => api.removeCredential({ name }));
const HOW: Record<Kind, string> = { bearer: 'Bearer key', header: 'Key in a header', basic: 'User name and password' };
const uid = $props.id();
</script>

<PageHead
  title="Credentials"
  about="Secrets by name: sealed when you give them, sent along where you say, never shown again."
/>
<div class="grid gap-6 xl:grid-cols-[1fr_22rem]">
  <div class="min-w-0 space-y-3">
    {#if remove.problem}<Problem problem={remove.problem} />{/if}
    <Loaded from={credentials}>
      {#snippet children({ items })}
        {#if items.length === 0}
          <Empty title="No credential yet"
            >Add one here when a server, model or web address wants a key. Attaching a tool server asks for its key by
            itself.</Empty
          >
        {:else}
          <Rows
            label="Credentials"
            headings={['Credential', 'How it goes along', 'For', 'Used by', 'Since', '']}
            {items}
          >
            {#snippet row(one)}
              <td class="font-semibold">{one.name}</td>
              <td>
                {HOW[one.kind]}{one.header ? ` ${one.header}` : ''}
                <span class="block text-sm break-all text-soft"
                  >to {one.origins?.join(', ') ?? 'where it is first used'}</span
                >
              </td>
              <td class="text-soft">{one.account}</td>
              <td>{one.usedBy.join(', ') || 'nothing'}</td>
              <td class="whitespace-nowrap text-soft">{moment(one.createdAt)}</td>
              <td
                ><button
                  type="button"
                  class="button px-2 py-1 text-sm"
                  disabled={one.usedBy.length > 0}
                  aria-label="Remove {one.name}"
                  onclick={() =>
                    confirm(`Remove “${one.name}”? For ten minutes “pindro undo” puts it back.`) &&
                    void remove.run(one.name)}>Remove</button
                ></td
              >
            {/snippet}
          </Rows>
        {/if}
      {/snippet}
    </Loaded>
  </div>
  <SidePanel title="Add a credential" onsubmit={async () => (await add.run()) && (given = { ...empty })}>
    <label class="label" for="{uid}-name">Name</label>
    <input id="{uid}-name" class="field mb-4" bind:value={given.name} required />
    <label class="label" for="{uid}-kind">How it goes along</label>
    <select id="{uid}-kind" class="field mb-4" bind:value={given.kind}
      >{#each Object.entries(HOW) as [kind, how] (kind)}<option value={kind}>{how}</option>{/each}</select
    >
    {#if given.kind === 'header'}<label class="label" for="{uid}-header">Name of the header</label><input
        id="{uid}-header"
        class="field mb-4"
        bind:value={given.header}
        required
        placeholder="X-Api-Key"
      />{/if}
    <label class="label" for="{uid}-account">{given.kind === 'basic' ? 'User name' : 'For whom it is'}</label>
    <input id="{uid}-account" class="field mb-4" bind:value={given.account} required={given.kind === 'basic'} />
    <label class="label" for="{uid}-secret">{given.kind === 'basic' ? 'Password' : 'Key'}</label>
    <input id="{uid}-secret" class="field mb-4" type="password" autocomplete="off" bind:value={given.secret} required />
    {#if add.problem}<div class="mb-4"><Problem problem={add.problem} /></div>{/if}
    <button class="button button-main" disabled={add.busy}>Seal and keep</button>
  </SidePanel>
</div>

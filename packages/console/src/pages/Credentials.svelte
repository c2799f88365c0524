<script lang="ts">
import type { CredentialSummary } from '@pindro/contract/light';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import { CREDENTIAL_KINDS } from '../make/credential-kinds.js';
import MakeCredential from '../make/MakeCredential.svelte';
import EditWindow from '../parts/resource/EditWindow.svelte';
import NameCell from '../parts/list/NameCell.svelte';
import ResourceList from '../parts/list/ResourceList.svelte';
import When from '../parts/text/When.svelte';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';
import { router } from '../state/router.svelte.js';

const credentials = new Resource(() => api.listCredentials(), ['credential', 'server', 'model', 'flow']);
let chosen = $state(router.query.get('open'));
const opened = $derived(credentials.value?.items.find((one) => one.name === chosen));

const SCHEMA: JsonSchema = {
  type: 'object',
  required: ['kind'],
  properties: {
    kind: { enum: Object.keys(CREDENTIAL_KINDS), words: { ...CREDENTIAL_KINDS }, title: 'Send as' },
    header: {
      type: 'string',
      title: 'Name of the header or parameter',
      description: 'For a key in a header or in the address',
    },
    account: { type: 'string', title: 'Owner', description: 'For user name and password: the user name' },
    origins: {
      type: 'array',
      items: { type: 'string' },
      title: 'Allowed origins',
      description: 'If empty, the next origin it is used with',
      examples: ['https://provisions.example'],
    },
    secret: {
      type: 'string',
      writeOnly: true,
      title: 'New secret',
      description: 'Leave it empty to keep the present secret; it is never shown',
    },
  },
};
const given = ({ kind, header, account, origins }: CredentialSummary): JsonObject => ({
  ...{ kind, account },
  ...(header && { header }),
  ...(origins && { origins }),
});
const save = (name: string) => async (value: JsonObject) => {
  const { origins, ...rest } = value;
  await api.updateCredential({ name, body: rest });
  await api.setOrigins({ name, body: { origins: (origins ?? []) as string[] } });
};
</script>

<ResourceList
  type="credential"
  title="Credentials"
  about="Named secrets: encrypted when you save them, sent only where you allow, never shown again."
  from={credentials}
  headings={['Credential', 'Send as', 'Owner', 'Used by', 'Since']}
  words={(one) => [one.name, one.account, one.usedBy.join(' ')]}
  make="Add credential"
>
  {#snippet empty()}
    Add one if a server, model or web address requires a key. Attaching a tool server asks for its key.
  {/snippet}
  {#snippet cells(one)}
    <td><NameCell sort="credential" name={one.name} onOpen={() => (chosen = one.name)} /></td>
    <td>
      {CREDENTIAL_KINDS[one.kind]}{one.header ? ` ${one.header}` : ''}
      <span class="block text-sm break-all text-soft">to {one.origins?.join(', ') ?? 'first use decides'}</span>
    </td>
    <td class="text-soft">{one.account}</td>
    <td>{one.usedBy.join(', ') || 'nothing'}</td>
    <td class="whitespace-nowrap text-soft"><When at={one.createdAt} /></td>
  {/snippet}
  {#snippet form(close)}<MakeCredential onMade={close} />{/snippet}
</ResourceList>
{#if opened}
  <EditWindow
    bind:open={() => true, () => (chosen = null)}
    title="Credential {opened.name}"
    schema={SCHEMA}
    value={given(opened)}
    save={save(opened.name)}
  />
{/if}

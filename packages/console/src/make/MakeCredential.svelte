<script lang="ts">
import SecretInput from '../forms/SecretInput.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';
import { CREDENTIAL_KINDS, type CredentialKind } from './credential-kinds.js';
import MakeForm from './MakeForm.svelte';

interface Props {
  onMade: (name: string) => void;
  use?: string;
  nested?: boolean;
}
let { onMade, use = 'Save', nested = false }: Props = $props();
const uid = $props.id();
const EMPTY = { name: '', kind: 'bearer' as CredentialKind, header: '', account: '', secret: '' };
let given = $state({ ...EMPTY });
const add = new Action(async () => {
  const { name, kind, header, account, secret } = given;
  await api.addCredential({ body: { name, kind, account, secret, ...(named && { header }) } });
  given = { ...EMPTY };
  onMade(name);
});
/** Label of the name under which it is sent, if it has one. */
const named = $derived(
  {
    header: 'Name of the header',
    path: 'Name in the address',
    query: 'Name of the parameter',
    bearer: '',
    basic: '',
    environment: '',
    certificate: '',
  }[given.kind],
);
const basic = $derived(given.kind === 'basic');
</script>

<MakeForm action={add} {use} {nested} ready={given.name !== '' && given.secret !== ''}>
  <label class="label" for="{uid}-name">Name</label>
  <input
    id="{uid}-name"
    class="field mb-3"
    bind:value={given.name}
    required
    placeholder="lower-case, with hyphens"
    autocomplete="off"
  />
  <label class="label" for="{uid}-kind">Send as</label>
  <select id="{uid}-kind" class="field mb-3" bind:value={given.kind}>
    {#each Object.entries(CREDENTIAL_KINDS) as [kind, how] (kind)}<option value={kind}>{how}</option>{/each}
  </select>
  {#if named}
    <label class="label" for="{uid}-header">{named}</label>
    <input
      id="{uid}-header"
      class="field mb-3"
      bind:value={given.header}
      required
      placeholder={given.kind === 'header' ? 'X-Api-Key' : 'api_key'}
    />
  {/if}
  <label class="label" for="{uid}-account">{basic ? 'User name' : 'Owner'}</label>
  <input id="{uid}-account" class="field mb-3" bind:value={given.account} required={basic} autocomplete="off" />
  <label class="label" for="{uid}-secret">{basic ? 'Password' : 'Key'}</label>
  <SecretInput
    id="{uid}-secret"
    class="mb-1"
    label={basic ? 'password' : 'key'}
    bind:value={given.secret}
    required
  />
  <p class="hint mb-3">Encrypted immediately and never shown again.</p>
</MakeForm>

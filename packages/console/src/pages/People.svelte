<script lang="ts">
import { type Person, ROLE_WORDS } from '@pindro/contract/light';
import Loaded from '../parts/text/Loaded.svelte';
import PageHead from '../parts/text/PageHead.svelte';
import AddPerson from '../people/AddPerson.svelte';
import OwnPassword from '../people/OwnPassword.svelte';
import PeopleRows from '../people/PeopleRows.svelte';
import { api } from '../state/api.js';
import { Action, Resource } from '../state/resource.svelte.js';

const me = new Resource(() => api.whoAmI(), ['person']);
const people = new Resource(
  async (): Promise<Person[]> => (me.value?.role === 'owner' ? (await api.listPeople()).items : []),
  ['person'],
);
const leave = new Action(async () => {
  await api.signOut();
  location.assign('/');
});
</script>

<PageHead title="People" about="People with access to the console, and their roles.">
  {#snippet actions()}
    <button type="button" class="button" disabled={leave.busy} onclick={() => void leave.run()}>Sign out</button>
  {/snippet}
</PageHead>
<Loaded from={me}>
  {#snippet children(self)}
    <p class="mb-6">You are <strong>{self.name}</strong>, {self.role}: {ROLE_WORDS[self.role]}.</p>
    {#if self.role === 'owner'}
      <PeopleRows people={people.value ?? []} self={self.name} onChanged={() => people.refresh()} />
      <AddPerson onChanged={() => people.refresh()} />
    {/if}
    <OwnPassword hasPassword={self.hasPassword} />
  {/snippet}
</Loaded>

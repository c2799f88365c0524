<script lang="ts">
import { type Person, ROLE_WORDS, ROLES, type Role } from '@pindro/contract/light';
import Code from '../parts/Code.svelte';
import Loaded from '../parts/Loaded.svelte';
import PageHead from '../parts/PageHead.svelte';
import Problem from '../parts/Problem.svelte';
import Rows from '../parts/Rows.svelte';
import { api } from '../state/api.js';
import { moment } from '../state/format.js';
import { Action, Resource } from '../state/resource.svelte.js';

const uid = $props.id();
const me = new Resource(() => api.whoAmI());
const people = new Resource(async (): Promise<Person[]> =>
  me.value?.role === 'owner' ? (await api.listPeople()).items : [],
);
let name = $state('');
let role = $state<Role>('viewer');
let now = $state('');
let password = $state('');
let link = $state.raw<{ for: string; url: string } | null>(null);
const add = new Action(async () => {
  const { person, url } = await api.addPerson({ body: { name, role } });
  link = { for: person.name, url };
  name = '';
  await people.refresh();
});
const change = new Action(async (who: string, to: Role) => {
  await api.changePerson({ name: who, body: { role: to } }).finally(() => people.refresh());
});
const invite = new Action(async (who: string) => {
  link = { for: who, url: (await api.signInLink({ body: { person: who } })).url };
});
const remove = new Action(async (who: string) => {
  await api.removePerson({ name: who });
  await people.refresh();
});
const own = new Action(async () => {
  await api.changePassword({ body: { password, ...(now && { now }) } });
  location.assign('/');
});
const leave = new Action(async () => {
  await api.signOut();
  location.assign('/');
});
const problem = $derived(change.problem ?? invite.problem ?? remove.problem);
</script>

<PageHead title="People" about="Who may use the console, and what each may do.">
  {#snippet actions()}<button type="button" class="button" disabled={leave.busy} onclick={() => void leave.run()}
      >Sign out</button
    >{/snippet}
</PageHead>
<Loaded from={me}>
  {#snippet children(self)}
    <p class="mb-6">You are <strong>{self.name}</strong>, {self.role}: {ROLE_WORDS[self.role]}.</p>
    {#if self.role === 'owner'}
      {#if problem}<div class="mb-4"><Problem {problem} /></div>{/if}
      {#if link}<p class="mb-1 font-medium" role="status">A link that signs {link.for} in once, within an hour:</p>
        <div class="mb-6"><Code text={link.url} label="sign-in link" secret={link.url.split('code=')[1]} /></div>{/if}
      <Rows label="People" headings={['Name', 'Role', 'Signs in by', 'Since', '']} items={people.value ?? []}>
        {#snippet row(one)}
          <td class="font-medium">{one.name}</td>
          <td
            ><select
              class="field w-auto py-1"
              aria-label="Role of {one.name}"
              value={one.role}
              onchange={(event) => void change.run(one.name, event.currentTarget.value as Role)}
              >{#each ROLES as each (each)}<option value={each}>{each}</option>{/each}</select
            ></td
          >
          <td>{one.hasPassword ? 'password or link' : 'link'}</td>
          <td class="whitespace-nowrap text-soft">{moment(one.createdAt)}</td>
          <td class="whitespace-nowrap"
            ><button
              type="button"
              class="button px-2 py-1 text-sm"
              aria-label="Make a link for {one.name}"
              onclick={() => void invite.run(one.name)}>Make a link</button
            >
            <button
              type="button"
              class="button px-2 py-1 text-sm"
              aria-label="Take out {one.name}"
              onclick={() => confirm(`Take ${one.name} out? Their sessions end at once.`) && void remove.run(one.name)}
              >Take out</button
            ></td
          >
        {/snippet}
      </Rows>
      <form
        class="panel mt-6"
        onsubmit={(event) => {
          event.preventDefault();
          void add.run();
        }}
      >
        <h2 class="mb-3">Let somebody in</h2>
        <div class="flex flex-wrap items-end gap-3">
          <div>
            <label class="label" for="{uid}-name">Name</label><input
              id="{uid}-name"
              class="field"
              bind:value={name}
              required
              autocapitalize="none"
              placeholder="tobias"
            />
          </div>
          <div>
            <label class="label" for="{uid}-role">Role</label><select id="{uid}-role" class="field" bind:value={role}
              >{#each ROLES as each (each)}<option value={each}>{each}</option>{/each}</select
            >
          </div>
          <button class="button button-main" disabled={add.busy}>Let them in</button>
        </div>
        <p class="mt-2 text-soft">{role}: {ROLE_WORDS[role]}.</p>
        {#if add.problem}<div class="mt-3"><Problem problem={add.problem} /></div>{/if}
      </form>
    {/if}
    <form
      class="panel mt-6"
      onsubmit={(event) => {
        event.preventDefault();
        void own.run();
      }}
    >
      <h2 class="mb-3">Your password</h2>
      <div class="flex flex-wrap items-end gap-3">
        {#if self.hasPassword}<div>
            <label class="label" for="{uid}-now">The present one</label><input
              id="{uid}-now"
              class="field"
              type="password"
              bind:value={now}
              required
              autocomplete="current-password"
            />
          </div>{/if}
        <div>
          <label class="label" for="{uid}-password">A new one, at least 10 characters</label><input
            id="{uid}-password"
            class="field"
            type="password"
            minlength="10"
            bind:value={password}
            required
            autocomplete="new-password"
          />
        </div>
        <button class="button" disabled={own.busy}>Set it</button>
      </div>
      <p class="mt-2 text-sm text-soft">You are signed out everywhere then, and sign in with it.</p>
      {#if own.problem}<div class="mt-3"><Problem problem={own.problem} /></div>{/if}
    </form>
  {/snippet}
</Loaded>

<script lang="ts">
import { type Person, ROLES, type Role } from '@pindro/contract/light';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import Code from '../parts/text/Code.svelte';
import EditWindow from '../parts/resource/EditWindow.svelte';
import NameCell from '../parts/list/NameCell.svelte';
import Problem from '../parts/text/Problem.svelte';
import Rows from '../parts/list/Rows.svelte';
import When from '../parts/text/When.svelte';
import { api } from '../state/api.js';
import { removing } from '../state/removing.svelte.js';
import { Action } from '../state/resource.svelte.js';
import { createSignInLink } from './links.svelte.js';

/** Who may use the console; what each may do is changed in the list. One's own password is set below it. */
let { people, self, onChanged }: { people: Person[]; self: string; onChanged: () => Promise<void> } = $props();
const change = new Action((name: string, role: Role) =>
  api.updatePerson({ name, body: { role } }).finally(() => onChanged()),
);
const invite = new Action(async (person: string) =>
  createSignInLink.show(person, (await api.createSignInLink({ body: { person } })).url),
);
let withPassword = $state<string | null>(null);
const PASSWORD: JsonSchema = {
  type: 'object',
  required: ['password'],
  properties: {
    password: {
      type: 'string',
      writeOnly: true,
      minLength: 10,
      title: 'Password',
      description: 'At least 10 characters',
    },
  },
};
async function setPassword(name: string, { password }: JsonObject) {
  await api.updatePerson({ name, body: { password: String(password ?? '') } });
  await onChanged();
}
const remove = (name: string) => void removing.remove('person', name, () => void onChanged());
const problem = $derived(change.problem ?? invite.problem);
const link = $derived(createSignInLink.shown);
</script>

{#if problem}<div class="mb-4"><Problem {problem} /></div>{/if}
{#if link}
  <p class="mb-1 font-medium" role="status">One-time sign-in link for {link.person}, valid for an hour:</p>
  <div class="mb-6"><Code text={link.url} label="sign-in link" secret={link.url.split('code=')[1]} /></div>
{/if}
<Rows
  label="People"
  headings={['Name', 'Role', 'Signs in by', 'Since', '']}
  items={people}
  remove={(one) => remove(one.name)}
>
  {#snippet row(one)}
    <td class="font-medium"><NameCell sort="person" name={one.name} onOpen={() => void invite.run(one.name)} /></td>
    <td>
      <select
        class="field w-auto py-1"
        aria-label="Role of {one.name}"
        value={one.role}
        onchange={(event) => void change.run(one.name, event.currentTarget.value as Role)}
      >
        {#each ROLES as each (each)}<option value={each}>{each}</option>{/each}
      </select>
    </td>
    <td>{one.hasPassword ? 'password or link' : 'link'}</td>
    <td class="whitespace-nowrap text-soft"><When at={one.createdAt} /></td>
    <td class="whitespace-nowrap">
      <button
        type="button"
        class="button button-small"
        aria-label="Create link for {one.name}"
        onclick={() => void invite.run(one.name)}>Create link</button
      >
      {#if one.name !== self}
        <button
          type="button"
          class="button button-small"
          aria-label="Set password for {one.name}"
          onclick={() => (withPassword = one.name)}>Set password</button
        >
      {/if}
      <button
        type="button"
        class="button button-small"
        aria-label="Remove {one.name}"
        onclick={() => remove(one.name)}>Remove</button
      >
    </td>
  {/snippet}
</Rows>
{#if withPassword !== null}
  {@const name = withPassword}
  <EditWindow
    bind:open={() => true, () => (withPassword = null)}
    title="Password for {name}"
    about="Tell them the password yourself. They are signed out everywhere and sign in with it."
    schema={PASSWORD}
    value={{}}
    save={(given) => setPassword(name, given)}
  />
{/if}

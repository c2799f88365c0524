<script lang="ts">
import { ROLE_WORDS, ROLES, type Role } from '@pindro/contract/light';
import Problem from '../parts/text/Problem.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';
import { createSignInLink } from './links.svelte.js';

let { onChanged }: { onChanged: () => Promise<void> } = $props();
const uid = $props.id();
let name = $state('');
let role = $state<Role>('viewer');
const add = new Action(async () => {
  const { person, url } = await api.addPerson({ body: { name, role } });
  createSignInLink.show(person.name, url);
  name = '';
  await onChanged();
});
</script>

<form
  class="panel mt-6"
  onsubmit={(event) => {
    event.preventDefault();
    void add.run();
  }}
>
  <h2 class="mb-3">Add person</h2>
  <div class="flex flex-wrap items-end gap-3">
    <div>
      <label class="label" for="{uid}-name">Name</label>
      <input id="{uid}-name" class="field" bind:value={name} required autocapitalize="none" placeholder="tobias" />
    </div>
    <div>
      <label class="label" for="{uid}-role">Role</label>
      <select id="{uid}-role" class="field" bind:value={role}>
        {#each ROLES as each (each)}<option value={each}>{each}</option>{/each}
      </select>
    </div>
    <button class="button button-main" disabled={add.busy}>Add</button>
  </div>
  <p class="mt-2 text-soft">{role}: {ROLE_WORDS[role]}.</p>
  {#if add.problem}<div class="mt-3"><Problem problem={add.problem} /></div>{/if}
</form>

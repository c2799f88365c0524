<script lang="ts">
import Problem from '../parts/text/Problem.svelte';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';

let { hasPassword }: { hasPassword: boolean } = $props();
const uid = $props.id();
let now = $state('');
let password = $state('');
const own = new Action(async () => {
  await api.changePassword({ body: { password, ...(now && { now }) } });
  location.assign('/');
});
</script>

<form
  class="panel mt-6"
  onsubmit={(event) => {
    event.preventDefault();
    void own.run();
  }}
>
  <h2 class="mb-3">Your password</h2>
  <div class="flex flex-wrap items-end gap-3">
    {#if hasPassword}
      <div>
        <label class="label" for="{uid}-now">Present password</label>
        <input
          id="{uid}-now"
          class="field"
          type="password"
          bind:value={now}
          required
          autocomplete="current-password"
        />
      </div>
    {/if}
    <div>
      <label class="label" for="{uid}-password">New password, at least 10 characters</label>
      <input
        id="{uid}-password"
        class="field"
        type="password"
        minlength="10"
        bind:value={password}
        required
        autocomplete="new-password"
      />
    </div>
    <button class="button" disabled={own.busy}>Set password</button>
  </div>
  <p class="mt-2 text-sm text-soft">You are then signed out everywhere. Sign in with the new password.</p>
  {#if own.problem}<div class="mt-3"><Problem problem={own.problem} /></div>{/if}
</form>

<script lang="ts">
import { signIn } from '../../state/api.js';
import { live } from '../../state/live.svelte.js';
import { Action } from '../../state/resource.svelte.js';
import Problem from '../text/Problem.svelte';

/** A session that ended under an open page: what was typed stays, and one can sign in right here. */
const uid = $props.id();
let name = $state('');
let password = $state('');
const enter = new Action(async () => {
  await signIn(name, password);
  password = '';
  live.start();
});
</script>

<form
  class="sign-in-again"
  aria-label="Sign in again"
  onsubmit={(event) => {
    event.preventDefault();
    void enter.run();
  }}
>
  <p class="min-w-64 grow">
    <strong>Your session has expired.</strong> Your input is still on this page. Sign in here, or open a new link
    from
    <code class="chip">npx pindro sign-in</code> in another tab and select “I am signed in”.
  </p>
  <label class="sr-only" for="{uid}-name">Name</label>
  <input id="{uid}-name" class="field w-36" bind:value={name} placeholder="name" autocomplete="username" />
  <label class="sr-only" for="{uid}-password">Password</label>
  <input
    id="{uid}-password"
    class="field w-40"
    type="password"
    bind:value={password}
    placeholder="password"
    autocomplete="current-password"
  />
  <button class="button button-main" disabled={enter.busy || name === ''}>Sign in</button>
  <button type="button" class="button" onclick={() => live.start()}>I am signed in</button>
  {#if enter.problem}<div class="w-full"><Problem problem={enter.problem} /></div>{/if}
</form>

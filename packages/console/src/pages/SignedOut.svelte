<script lang="ts">
import Problem from '../parts/text/Problem.svelte';
import { signIn } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';

const command = 'npx pindro sign-in';
const uid = $props.id();
let name = $state('');
let password = $state('');
const enter = new Action(async () => {
  await signIn(name, password);
  location.assign('/');
});
</script>

<svelte:head><title>Sign in · Pindro</title></svelte:head>
<main class="mx-auto max-w-xl px-6 py-24">
  <h1>You are not signed in</h1>
  <form
    class="panel mt-5 space-y-4"
    onsubmit={(event) => {
      event.preventDefault();
      void enter.run();
    }}
  >
    <h2>With a password</h2>
    <div>
      <label class="label" for="{uid}-name">Name</label><input
        id="{uid}-name"
        class="field"
        bind:value={name}
        required
        autocomplete="username"
        autocapitalize="none"
      />
    </div>
    <div>
      <label class="label" for="{uid}-password">Password</label><input
        id="{uid}-password"
        class="field"
        type="password"
        bind:value={password}
        required
        autocomplete="current-password"
      />
    </div>
    {#if enter.problem}<Problem problem={enter.problem} />{/if}
    <button class="button button-main" disabled={enter.busy}>{enter.busy ? 'Signing in …' : 'Sign in'}</button>
  </form>
  <h2 class="mt-8">With a link</h2>
  <p class="mt-1">The service prints a sign-in link when it starts. The link works once. To get another one, run</p>
  <pre class="mt-3 rounded-md bg-sunk p-3 font-mono">{command}</pre>
  <p class="mt-3 text-soft">and open the printed link in this browser, or ask an owner for one.</p>
</main>

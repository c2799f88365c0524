<script lang="ts">
const command = 'npx pindro sign-in';
</script>

<svelte:head><title>Sign in · Pindro</title></svelte:head>
<main class="mx-auto max-w-xl px-6 py-24">
  <h1>You are not signed in</h1>
  <p class="mt-3">The service prints a sign-in link when it starts. It works once. For another one, run</p>
  <pre class="mt-3 rounded-md bg-sunk p-3 font-mono">{command}</pre>
  <p class="mt-3 text-soft">and open what it prints in this browser.</p>
</main>

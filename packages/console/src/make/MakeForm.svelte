<script lang="ts">
import type { Snippet } from 'svelte';
import Problem from '../parts/text/Problem.svelte';
import type { Action } from '../state/resource.svelte.js';

interface Props {
  action: Action<[], unknown>;
  /** What the button says, and while it works. */
  use: string;
  busy?: string;
  ready: boolean;
  /** Inside of another form, which must not be sent with it. */
  nested?: boolean;
  children: Snippet;
}
/** A form that makes one thing. */
let { action, use, busy = 'Saving …', ready, nested = false, children }: Props = $props();
const send = () => void action.run();
function sent(event: Event) {
  event.preventDefault();
  send();
}
</script>

{#snippet inner()}
  {@render children()}
  {#if action.problem}<div class="mb-3"><Problem problem={action.problem} /></div>{/if}
  <button
    type={nested ? 'button' : 'submit'}
    class="button button-main"
    disabled={action.busy || !ready}
    onclick={nested ? send : undefined}>{action.busy ? busy : use}</button
  >
{/snippet}

{#if nested}{@render inner()}{:else}<form onsubmit={sent}>{@render inner()}</form>{/if}

<script lang="ts">
import { GRANT_WORDS } from '@pindro/core/browser';
import Problem from '../parts/text/Problem.svelte';
import When from '../parts/text/When.svelte';
import { api } from '../state/api.js';
import { words } from '../state/format.js';
import { Action, Resource } from '../state/resource.svelte.js';

/** Approvals that cover further calls, each of which can be revoked. */
const standing = new Resource(() => api.listStandingApprovals({ query: {} }), ['approval']);
const revoke = new Action(async (id: string) => {
  await api.revokeStandingApproval({ id });
  await standing.refresh();
});
</script>

{#if standing.problem}<Problem problem={standing.problem} />{/if}
{#if revoke.problem}<Problem problem={revoke.problem} />{/if}
{#if standing.value && standing.value.items.length > 0}
  <h2 class="mt-8 mb-2">Standing approvals</h2>
  <p class="mb-2 text-soft">
    They cover further calls of the same tool until they expire. A changed tool requires a new approval.
  </p>
  <div class="overflow-x-auto rounded-lg border border-line bg-card">
    <table class="w-full text-left">
      <thead class="text-sm text-soft">
        <tr>
          {#each ['Tool', 'Flow', 'Covers', 'Caller', 'Approved by', 'Expires', ''] as heading (heading)}
            <th scope="col" class="px-4 py-2 font-normal">{heading}</th>
          {/each}
        </tr>
      </thead>
      <tbody class="divide-y divide-line border-t border-line">
        {#each standing.value.items as one (one.id)}
          <tr>
            <td class="px-4 py-2">{words(one.tool)} <span class="block text-sm text-soft">{one.origin}</span></td>
            <td class="px-4 py-2"><a class="link" href="/flows/{one.flow}">{words(one.flow)}</a></td>
            <td class="px-4 py-2">{GRANT_WORDS[one.grant]}</td>
            <td class="px-4 py-2 wrap-anywhere">{one.caller}</td>
            <td class="px-4 py-2">{one.by} <span class="block text-sm text-soft"><When at={one.at} /></span></td>
            <td class="px-4 py-2"><When at={one.until} /></td>
            <td class="px-4 py-2">
              <button
                type="button"
                class="button button-small"
                disabled={revoke.busy}
                aria-label="Revoke the approval of {words(one.tool)} for {one.caller}"
                onclick={() => void revoke.run(one.id)}>Revoke</button
              >
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{/if}

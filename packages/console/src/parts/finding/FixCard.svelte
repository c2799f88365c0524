<script lang="ts">
import { type ProposedFix, type Finding, fixWords } from '@pindro/core/browser';
import Check from '@lucide/svelte/icons/check';
import RotateCw from '@lucide/svelte/icons/rotate-cw';
import Upload from '@lucide/svelte/icons/upload';
import Wrench from '@lucide/svelte/icons/wrench';
import { api } from '../../state/api.js';
import { plural } from '../../state/format.js';
import { Action } from '../../state/resource.svelte.js';
import { router } from '../../state/router.svelte.js';
import Problem from '../text/Problem.svelte';

/** The fix that a finding proposes, shown as a diff, and applied in place. */
let { finding, cure }: { finding: Finding; cure: ProposedFix } = $props();
const make = new Action(() => api.fixRun({ id: finding.run, body: { finding: finding.fingerprint } }));
const attempt = new Action(() =>
  api.fixRun({ id: finding.run, body: { finding: finding.fingerprint, try: true } }),
);
const publish = new Action(async () => {
  const body = { finding: finding.fingerprint, publish: true };
  await api.fixRun({ id: finding.run, body });
  await retryOn('live');
});
/** The same input on what was changed. */
const again = new Action(() => retryOn());
async function retryOn(on?: 'live') {
  const { run } = await api.retryRun({ id: finding.run, body: on ? { on } : {} });
  router.go(`/runs/${run}`);
}
const made = $derived(make.result);
const tried = $derived(attempt.result?.tried);
const text = (value: unknown) => (typeof value === 'string' ? value : JSON.stringify(value));
const words = $derived(fixWords(cure));
const sentence = (some: string) => `${some.charAt(0).toUpperCase()}${some.slice(1)}.`;
const difference = $derived(
  'from' in cure ? { from: cure.from === null ? null : text(cure.from), to: text(cure.to) } : null,
);
</script>

<div class="mt-3 ml-7 rounded-md border border-line bg-paper p-3">
  {#if difference}
    <p class="mb-1 text-sm text-soft">Fix</p>
    <div class="mb-3 font-mono text-sm wrap-anywhere">
      {#if difference.from !== null}
        <p><span class="sr-only">from</span><del class="bg-rowan-wash text-rowan">{difference.from}</del></p>
      {/if}
      <p><span class="sr-only">to</span><ins class="bg-spruce-wash text-spruce">{difference.to}</ins></p>
    </div>
  {:else}
    <p class="mb-3">{sentence(words)}</p>
  {/if}
  {#if made}
    <div class="flex flex-col gap-2" role="status">
      {#if made.made}
        <p class="flex items-center gap-2 text-spruce"><Check size={18} aria-hidden="true" /> Applied.</p>
      {:else}
        <p class="text-ochre">Nothing was changed, because the fix did not help.</p>
      {/if}
      {#if made.checked}<p>{sentence(made.checked.words)}</p>{/if}
      {#if made.draft}
        <p>
          Only the draft of {made.draft.flow} has changed. Callers use revision {made.draft.live} until you publish.
          {#if made.draft.others}The draft has other unpublished changes too.{/if}
        </p>
      {/if}
    </div>
    {#if made.made}
      <div class="mt-2 flex flex-wrap gap-2">
        <button type="button" class="button button-small" disabled={again.busy} onclick={() => void again.run()}>
          <RotateCw size={15} aria-hidden="true" />
          {again.busy ? 'Retrying …' : made.draft ? 'Retry with the draft' : 'Retry with the fix'}
        </button>
        {#if made.draft}
          <button
            type="button"
            class="button button-small"
            disabled={publish.busy}
            onclick={() => void publish.run()}
          >
            <Upload size={15} aria-hidden="true" />
            {publish.busy ? 'Publishing …' : 'Publish and retry'}
          </button>
        {/if}
      </div>
    {/if}
  {:else}
    <div class="flex flex-wrap gap-2">
      <button type="button" class="button button-small" disabled={make.busy} onclick={() => void make.run()}>
        <Wrench size={15} aria-hidden="true" />
        {make.busy ? 'Applying …' : 'Apply fix'}
      </button>
      {#if cure.do === 'change'}
        <button
          type="button"
          class="button button-small"
          disabled={attempt.busy}
          onclick={() => void attempt.run()}
        >
          {attempt.busy ? 'Testing …' : 'Test on recorded runs'}
        </button>
      {/if}
    </div>
  {/if}
  {#if tried}
    <p class="mt-2" role="status">
      {tried.tried === 0
        ? 'No recorded run could be tested with it.'
        : `It fixes ${tried.cured} of ${plural(tried.tried, 'recorded run')}.`}
      {#each tried.left as one (one.run)}<span class="block text-sm text-soft">{one.run}: {one.why}</span>{/each}
    </p>
  {/if}
  {#if attempt.problem}<div class="mt-2"><Problem problem={attempt.problem} /></div>{/if}
  {#if again.problem}<div class="mt-2"><Problem problem={again.problem} /></div>{/if}
  {#if publish.problem}<div class="mt-2"><Problem problem={publish.problem} /></div>{/if}
  {#if make.problem}<div class="mt-2"><Problem problem={make.problem} /></div>{/if}
</div>

<script lang="ts">
import { attribute, type Json } from '@pindro/core/browser';
import Problem from '../../parts/text/Problem.svelte';
import { api } from '../../state/api.js';
import { plural } from '../../state/format.js';
import { Action } from '../../state/resource.svelte.js';
import type { Span } from './span-words.js';
import ExchangeSide from './ExchangeSide.svelte';

/** Exchanges of a span, loaded when opened. */
let { span }: { span: Span } = $props();
const count = $derived(Number(span.attributes[attribute.exchanged] ?? 0));
/** What something outside is asked for. */
const reaches = $derived(
  ['model', 'tool'].includes(span.work)
    ? span.attributes[attribute.childRun] === undefined && span.attributes[attribute.flow] === undefined
    : span.attributes[attribute.kind] === 'http',
);
const read = new Action((one: Span) => api.runExchanges({ id: one.run, span: one.spanId }));
function open() {
  // What was read of another span is not shown for this one.
  read.result = undefined;
  void read.run(span);
}
const bodyOf = (text: string): Json => {
  try {
    return JSON.parse(text) as Json;
  } catch {
    return text;
  }
};
</script>

{#if count > 0}
  {#key span.spanId}
    <details class="mb-3 text-sm" ontoggle={(event) => event.currentTarget.open && open()}>
      <summary class="cursor-pointer font-semibold text-soft"
        >Request and response: {plural(count, 'request')}</summary
      >
      {#if read.problem}<Problem problem={read.problem} />
      {:else if !read.result}<p class="mt-2 text-soft" role="status">Loading …</p>
      {:else}
        <ol class="mt-2 grid gap-4">
          {#each read.result.items as { request, answer, error }, index (index)}
            <li class="min-w-0">
              <ExchangeSide
                title={request.address ? `${request.method} ${request.address}` : 'A line to the program'}
                side={request}
                body={bodyOf(request.body)}
                name="request {index + 1}"
              />
              {#if answer}
                <ExchangeSide
                  title={answer.status === undefined ? 'Response' : `Response with status ${answer.status}`}
                  side={answer}
                  body={bodyOf(answer.body)}
                  name="response {index + 1}"
                />
              {/if}
              {#if error !== undefined || !answer}
                <p class="mt-1 text-rowan wrap-anywhere">{error ?? 'No response.'}</p>
              {/if}
            </li>
          {/each}
        </ol>
      {/if}
    </details>
  {/key}
{:else if reaches}
  <p class="hint mb-3">
    Only failed exchanges are captured. To capture this exchange, retry the run with “capture exchanges”.
  </p>
{/if}

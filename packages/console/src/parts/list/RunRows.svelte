<script lang="ts">
import When from '../text/When.svelte';
import type { RunSummary } from '@pindro/contract/light';
import { brief, took } from '../../state/format.js';
import Rows from './Rows.svelte';
import State from '../text/State.svelte';

let { runs, keys = true }: { runs: RunSummary[]; keys?: boolean } = $props();
const FROM: Record<string, string> = {
  hand: 'manually',
  chat: 'chat',
  tool: 'tool call',
  flow: 'another flow',
  agent: 'an agent',
  again: 'retry',
};
</script>

<Rows
  {keys}
  label="Runs"
  headings={['Flow', 'State', 'Started', 'Duration', 'Caller', 'From', 'Finding']}
  items={runs}
>
  {#snippet row(run)}
    <td class="whitespace-nowrap"
      ><a class="link" href="/runs/{run.id}">{run.flow}</a>{#if run.stage === 'draft'}{' '}<span
          class="text-sm text-soft">draft</span
        >{/if}</td
    >
    <td><State state={run.state} /></td>
    <td class="whitespace-nowrap text-soft"><When at={run.startedAt} /></td>
    <td class="whitespace-nowrap tabular-nums">{took(run.startedAt, run.endedAt)}</td>
    <td>{run.caller}</td>
    <td class="whitespace-nowrap text-soft">{FROM[run.entry] ?? run.entry}</td>
    <td class="min-w-64 {run.title ? 'text-rowan' : 'text-ochre'}"
      >{brief(run.title ?? run.doubt ?? (run.failures ? 'A call in it failed' : ''), 130)}</td
    >
  {/snippet}
</Rows>

<script lang="ts">
import RecordSize from '../parts/resource/RecordSize.svelte';
import { plural } from '../state/format.js';
import type { Status } from './status.js';

/** What there is, in four numbers that lead to it. */
let { status }: { status: Status } = $props();
const word = (count: number, one: string) => plural(count, one).replace(/^\S+ /, '');
</script>

<ul class="mb-6 grid grid-cols-2 gap-3 lg:grid-cols-4">
  <li class="standing">
    <a href="/runs?state=running"><b>{status.running}</b> running</a>
    {#if status.queued > 0}<span class="hint">{status.queued} queued</span>{/if}
  </li>
  <li class="standing">
    <a href="/approvals"><b>{status.approvals}</b> {word(status.approvals, 'decision')} pending</a>
  </li>
  <li class="standing">
    <a href="/flows"><b>{status.flows}</b> {word(status.flows, 'flow')}</a>,
    <a href="/endpoints">{plural(status.endpoints, 'endpoint')}</a>
  </li>
  <li class="standing">
    <a href="/runs"><b>{status.runs.toLocaleString()}</b> {word(status.runs, 'run')} stored</a>
    <RecordSize of={status.record} trouble={status.trouble} />
  </li>
</ul>

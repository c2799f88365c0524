<script lang="ts">
import CircleCheck from '@lucide/svelte/icons/circle-check';
import { brief, plural, words } from '../state/format.js';
import type { ActivityOfHours, Status } from './status.js';

/** Things that need attention, each with a link. */
let { status, failing }: { status: Status; failing: ActivityOfHours['failing'] } = $props();
interface Item {
  to: string;
  what: string;
  why: string;
}
const items = $derived<Item[]>([
  ...(status.trouble ? [{ to: '/', what: 'Runs cannot be recorded', why: status.trouble }] : []),
  ...(status.approvals > 0
    ? [
        {
          to: '/approvals',
          what: `${plural(status.approvals, 'decision')} pending`,
          why: 'A run waits for each approval.',
        },
      ]
    : []),
  ...status.problems.returned.map((one) => ({
    to: `/problems/${one.id}`,
    what: 'A recurring problem',
    why: one.title,
  })),
  ...(status.problems.open > 0
    ? [
        {
          to: '/problems',
          what: `${plural(status.problems.open, 'problem')} open`,
          why: 'Recurring failures across runs, each listed once.',
        },
      ]
    : []),
  ...status.servers
    .filter((one) => one.trouble)
    .map((one) => ({ to: `/servers/${one.name}`, what: `Tool server ${one.name}`, why: one.trouble! })),
  ...status.models
    .filter((one) => one.trouble)
    .map((one) => ({ to: `/models?open=${one.name}`, what: `Model connection ${one.name}`, why: one.trouble! })),
  ...failing.map((one) => ({
    to: `/runs/${one.run}`,
    what: `${words(one.flow)} failed${one.times > 1 ? ` ${one.times} times` : ''}`,
    why: one.title ?? '',
  })),
]);
</script>

<section class="panel" aria-labelledby="look">
  <h2 id="look" class="mb-2">Needs attention</h2>
  {#if items.length === 0}
    <p class="flex items-center gap-2 text-soft">
      <CircleCheck size={18} class="text-spruce" aria-hidden="true" /> Nothing in the last 24 hours.
    </p>
  {/if}
  <ul class="max-h-56 space-y-2.5 overflow-auto">
    {#each items as item, index (index)}
      <li>
        <a class="link" href={item.to}>{item.what}</a>
        {#if item.why}<p class="text-sm text-soft">{brief(item.why, 130)}</p>{/if}
      </li>
    {/each}
  </ul>
</section>

<script lang="ts">
import { api } from '../state/api.js';
import { plural } from '../state/format.js';
import { Resource } from '../state/resource.svelte.js';

/** The built-in endpoint for assistants, next to the others. */
const workshop = new Resource(() => api.getWorkshop(), ['workshop', 'flow']);
</script>

{#if workshop.value}
  {@const { on, flows, proposals } = workshop.value}
  {@const open = flows.filter((flow) => flow.open).length}
  {@const waiting = proposals.filter(({ state }) => state === 'open').length}
  <section class="panel mt-6 flex flex-wrap items-center justify-between gap-3">
    <div>
      <h2><a class="link" href="/endpoints/workshop">Workshop for coding assistants</a></h2>
      <p class="text-soft">
        {on
          ? `Enabled. ${plural(open, 'flow')} open to assistants.`
          : 'Built in and disabled. It lets assistants read, call and examine flows that you open to them.'}
      </p>
    </div>
    {#if waiting > 0}
      <a class="link font-medium text-ochre" href="/endpoints/workshop?view=proposals">
        {plural(waiting, 'proposal')} pending
      </a>
    {/if}
  </section>
{/if}

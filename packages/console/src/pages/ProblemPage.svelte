<script lang="ts">
import FindingCard from '../parts/finding/FindingCard.svelte';
import ProblemActions from '../parts/finding/ProblemActions.svelte';
import Loaded from '../parts/text/Loaded.svelte';
import PageHead from '../parts/text/PageHead.svelte';
import ProblemStateWords from '../parts/finding/ProblemState.svelte';
import Rows from '../parts/list/Rows.svelte';
import When from '../parts/text/When.svelte';
import Plot from '../plots/Plot.svelte';
import { api } from '../state/api.js';
import { retryCostWords } from '../parts/finding/retry-cost.js';
import { plural } from '../state/format.js';
import { Resource } from '../state/resource.svelte.js';

let { name: id }: { name: string } = $props();
const problem = new Resource(() => api.getProblem({ id }), ['problem', 'run']);
</script>

<Loaded from={problem} page="Problem {id}">
  {#snippet children(now)}
    {@const often = [
      { title: 'Flows', list: now.flows },
      { title: 'Tools', list: now.tools },
      { title: 'Callers', list: now.callers },
    ].filter(({ list }) => list.length > 0)}
    <PageHead title="Problem in {now.flow}" back={{ to: '/problems', label: 'Problems' }} />
    <p class="mb-5 flex flex-wrap items-center gap-x-3 gap-y-1">
      <ProblemStateWords {...now} />
      <span>seen in {plural(now.times, 'run')}</span>
      <span class="text-soft">
        first <When at={now.firstAt} /> with {now.sinceRevision === null
          ? 'a draft'
          : `revision ${now.sinceRevision}`}, last
        <When at={now.lastAt} />
      </span>
      {#if retryCostWords(now.waste)}<span class="text-soft">{retryCostWords(now.waste)} wasted</span>{/if}
    </p>
    {#if now.toolsChanged}
      <p class="mb-4">
        The tools of <a class="link" href="/servers/{now.toolsChanged.server}">{now.toolsChanged.server}</a> changed
        <When at={now.toolsChanged.at} />{now.toolsChanged.tools.length > 0
          ? `: ${now.toolsChanged.tools.slice(0, 5).join(', ')}`
          : ''}.
      </p>
    {/if}
    {#if now.note}<p class="mb-4 text-soft">{now.by ?? 'Somebody'} said: {now.note}</p>{/if}
    <div class="mb-6"><FindingCard finding={now.finding} problems={false} /></div>
    <div class="mb-6 grid gap-4 lg:grid-cols-[minmax(0,1fr)_22rem]">
      <section class="panel min-w-0">
        <h2 class="mb-2">Frequency</h2>
        <Plot
          label="{plural(now.times, 'run')} by day, last {now.days.length} days"
          times={now.days.map(({ from }) => Date.parse(from) / 1000)}
          series={[{ label: 'runs', color: 'rowan', values: now.days.map(({ times }) => times), bars: true }]}
        />
      </section>
      <section class="panel min-w-0">
        <h2 class="mb-2">Where</h2>
        <dl class="space-y-2">
          {#each often as { title, list } (title)}
            <div>
              <dt class="text-sm text-soft">{title}</dt>
              <dd>{list.map(({ name, times }) => `${name} (${times})`).join(', ')}</dd>
            </div>
          {/each}
        </dl>
        <ProblemActions problem={now} onJudged={(next) => (problem.value = next)} />
      </section>
    </div>
    <h2 class="mb-2">Affected runs</h2>
    <Rows label="Affected runs" headings={['Run', 'Time', 'Caller', 'Revision']} items={now.runs}>
      {#snippet row(one)}
        <td><a class="link font-mono text-sm" href="/runs/{one.run}">{one.run}</a></td>
        <td class="text-soft"><When at={one.at} /></td>
        <td>{one.caller}</td>
        <td class="text-soft">{one.revision ?? 'draft'}</td>
      {/snippet}
    </Rows>
  {/snippet}
</Loaded>

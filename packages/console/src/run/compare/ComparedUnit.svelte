<script lang="ts">
import { humanDuration, type Json } from '@pindro/core/browser';
import FieldsTable from './FieldsTable.svelte';
import StubStep from './StubStep.svelte';

interface Side {
  status: string;
  took: number | null;
  input: unknown;
  output: unknown;
  error: string | null;
}
interface Props {
  row: { what: string; work: string; one: Side | null; other: Side | null; differs: string[] };
  flow: string;
  /** This run and the other. */
  runs: [string, string];
}
/** A step or call of two runs that differ in it. */
let { row, flow, runs }: Props = $props();
const WORDS: Record<string, string> = { ok: 'done', error: 'failed', skipped: 'not run', running: 'running' };
const PARTS = ['input', 'output', 'error'] as const;
const DIFFERS: Record<string, string> = { came: 'only in one run' };
const parts = $derived(PARTS.filter((part) => row.differs.includes(part) || row.differs.includes('came')));
const partOf = (side: Side | null, part: (typeof PARTS)[number]) => (side?.[part] ?? undefined) as Json | undefined;
const mayStub = (side: Side | null) => row.work === 'step' && side?.status === 'ok' && /^[\w-]+$/.test(row.what);
</script>

<section class="mb-5" aria-label={row.what}>
  <h2 class="mb-1 wrap-anywhere">
    {row.what}
    <span class="text-sm font-normal text-soft"
      >differs: {row.differs.map((part) => DIFFERS[part] ?? part).join(', ')}</span
    >
  </h2>
  <div class="rows">
    <table class="compare">
      <thead>
        <tr>
          <th scope="col">Field</th>
          {#each ['This run', 'Other run'] as name, index (name)}
            {@const side = index === 0 ? row.one : row.other}
            <th scope="col"
              >{name}: {#if side}<span class={side.status === 'error' ? 'text-rowan' : ''}
                  >{WORDS[side.status] ?? side.status}</span
                >{#if side.took !== null}, {humanDuration(side.took)}{/if}{:else}not present{/if}</th
            >
          {/each}
        </tr>
      </thead>
      <tbody>
        {#each parts as part (part)}
          {@const [one, other] = [partOf(row.one, part), partOf(row.other, part)]}
          {#if one !== undefined || other !== undefined}
            <tr class="compare-part"><th scope="rowgroup" colspan="3">{part}</th></tr>
            <FieldsTable {part} {one} {other} />
          {/if}
        {/each}
        {#if mayStub(row.one) || mayStub(row.other)}
          <tr>
            <td></td>
            {#each [row.one, row.other] as side, index (index)}
              <td
                >{#if mayStub(side)}<StubStep {flow} step={row.what} run={runs[index]!} />{/if}</td
              >
            {/each}
          </tr>
        {/if}
      </tbody>
    </table>
  </div>
</section>

<script lang="ts">
import type { ServerList } from '@pindro/contract/light';

interface Props {
  change: ServerList['changes'][number];
  /** The definition of a new tool. */
  description?: string;
}
/** How one tool differs, part by part, and what that breaks. */
let { change, description = '' }: Props = $props();
const KINDS = { new: 'New tool.', gone: 'Removed tool.', renamed: 'Renamed tool.', changed: '' };
const WORDS: Record<string, string> = {
  title: 'Title',
  description: 'Description',
  result: 'Output schema',
  task: 'Runs only as a task',
  schema: 'Input schema',
};
const partName = (at: string) =>
  WORDS[at] ?? at.replace(/^arguments\//, 'Argument ').replace(/^annotations\//, 'Description: ');
</script>

{#if change.kind !== 'changed'}
  <p>{KINDS[change.kind]}{change.was ? ` Former name: ${change.was}.` : ''}</p>
  {#if change.kind === 'new' && description}<p class="text-soft wrap-anywhere">{description}</p>{/if}
{/if}
{#if change.parts.length > 0}
  <dl class="space-y-2">
    {#each change.parts as part (part.at)}
      <div>
        <dt class="text-sm font-medium text-soft">{partName(part.at)}</dt>
        {#if part.before !== null}
          <dd
            class="rounded-t-md bg-rowan-wash px-3 py-1 text-rowan wrap-anywhere {part.after === null
              ? 'rounded-b-md'
              : ''}"
          >
            <span class="sr-only">before: </span><del class="no-underline">− {part.before}</del>
          </dd>
        {/if}
        {#if part.after !== null}
          <dd
            class="rounded-b-md bg-spruce-wash px-3 py-1 text-spruce wrap-anywhere {part.before === null
              ? 'rounded-t-md'
              : ''}"
          >
            <span class="sr-only">now: </span><ins class="no-underline">+ {part.after}</ins>
          </dd>
        {/if}
      </div>
    {/each}
  </dl>
{/if}
{#if change.breaks.length > 0}
  <ul class="mt-2 text-sm text-ochre" aria-label="Consequences">
    {#each change.breaks as sentence (sentence)}<li>{sentence}</li>{/each}
  </ul>
{/if}

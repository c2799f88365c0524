<script lang="ts">
import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
import { Popover } from 'bits-ui';
import type { Mistake } from '../../forms/place.js';
import { plural } from '../../state/format.js';
import type { Editor } from '../session/session.svelte.js';

/** Mistakes and warnings, each with a link to its place. */
let { editor, onShow }: { editor: Editor; onShow: () => void } = $props();
let open = $state(false);
const faults = $derived(editor.faults);
const toFill = $derived(editor.drawing.mistakes.length - faults.length);
const all = $derived([
  ...editor.drawing.mistakes.map((mistake) => ({
    mistake,
    kind: editor.isCalm(mistake) ? 'to configure' : 'mistake',
  })),
  ...editor.drawing.warnings.map((mistake) => ({ mistake, kind: 'warning' })),
]);
const said = $derived(
  faults.length > 0
    ? plural(faults.length, 'mistake')
    : toFill > 0
      ? `${toFill} to configure`
      : plural(editor.drawing.warnings.length, 'warning'),
);
/** `/steps/book/with/row/hut` as people say it. */
const where = (at: string) =>
  at
    .split('/')
    .filter((part) => part !== '' && part !== 'steps' && part !== 'with')
    .join(' › ')
    .replaceAll('_', ' ');
function go(mistake: Mistake) {
  open = false;
  editor.show(mistake);
  onShow();
}
</script>

{#if all.length > 0}
  <Popover.Root bind:open>
    <Popover.Trigger class="button button-small {faults.length > 0 ? 'text-rowan' : 'text-ochre'}">
      <TriangleAlert size={15} aria-hidden="true" />{said}
    </Popover.Trigger>
    <Popover.Portal>
      <Popover.Content
        class="menu w-[26rem] max-w-[94vw]"
        align="end"
        sideOffset={6}
        aria-label="Mistakes and warnings"
      >
        <ul class="max-h-[60vh] overflow-auto">
          {#each all as { mistake, kind }, index (index)}
            <li>
              <button type="button" class="menu-item items-start" onclick={() => go(mistake)}>
                <span class="min-w-0 grow">
                  <span class="block text-sm text-soft">{where(mistake.at) || 'the flow'}</span>
                  <span class="wrap-anywhere">{mistake.message}</span>
                </span>
                <span class="shrink-0 text-sm {kind === 'mistake' ? 'text-rowan' : 'text-ochre'}">{kind}</span>
              </button>
            </li>
          {/each}
        </ul>
      </Popover.Content>
    </Popover.Portal>
  </Popover.Root>
{/if}

<script lang="ts">
import FolderInput from '@lucide/svelte/icons/folder-input';
import Problem from '../parts/text/Problem.svelte';
import type { ImportSelection } from './import-selection.svelte.js';

/** Drop area for files. Nothing is imported before its changes are reviewed. */
let { parcel }: { parcel: ImportSelection } = $props();
let over = $state(false);

function drop(event: DragEvent) {
  event.preventDefault();
  over = false;
  void parcel.bring([...(event.dataTransfer?.files ?? [])]);
}
function chosen(event: Event & { currentTarget: HTMLInputElement }) {
  void parcel.bring([...(event.currentTarget.files ?? [])]);
  event.currentTarget.value = '';
}
</script>

<section
  class="drop-place"
  class:drop-place-over={over}
  aria-label="Import files"
  ondragover={(event) => {
    event.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={drop}
>
  <FolderInput size={28} class="text-soft" aria-hidden="true" />
  <p>Drop files here: an exported workspace, single documents, or the bundle of a flow.</p>
  <div class="flex flex-wrap justify-center gap-2">
    <label class="button cursor-pointer focus-within:outline-2">
      Choose files<input class="sr-only" type="file" multiple aria-label="Choose files" onchange={chosen} />
    </label>
    <label class="button cursor-pointer focus-within:outline-2">
      Choose a folder<input
        class="sr-only"
        type="file"
        aria-label="Choose a folder"
        onchange={chosen}
        {...{ webkitdirectory: true }}
      />
    </label>
  </div>
  {#if parcel.compare.busy || parcel.look.busy}<p class="busy" role="status">Comparing …</p>{/if}
</section>
{#if parcel.compare.problem}<div class="mt-4"><Problem problem={parcel.compare.problem} /></div>{/if}
{#if parcel.look.problem}<div class="mt-4"><Problem problem={parcel.look.problem} /></div>{/if}

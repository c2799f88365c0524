<script lang="ts">
import Download from '@lucide/svelte/icons/download';
import PageHead from '../parts/text/PageHead.svelte';
import Problem from '../parts/text/Problem.svelte';
import { saveFile } from '../state/files.js';
import { Action } from '../state/resource.svelte.js';
import BundleView from '../workspace/BundleView.svelte';
import DropPlace from '../workspace/DropPlace.svelte';
import FilesView from '../workspace/FilesView.svelte';
import { ImportSelection } from '../workspace/import-selection.svelte.js';
import Removals from '../workspace/Removals.svelte';
import { api } from '../state/api.js';

const parcel = new ImportSelection();
let rows = $state(false);
const give = new Action(async () => {
  const { files } = await api.exportWorkspace({ query: { rows: rows ? 'true' : 'false' } });
  saveFile('workspace.json', JSON.stringify({ format: 'pindro/files@1', files }, null, 2), 'application/json');
});
</script>

<PageHead
  title="Workspace"
  about="Everything except secrets and runs, as files: for backup, comparison or transfer."
>
  {#snippet actions()}
    <label class="flex items-center gap-2"
      ><input type="checkbox" class="tick" bind:checked={rows} /> include rows of tables</label
    >
    <button type="button" class="button button-main" disabled={give.busy} onclick={() => void give.run()}>
      <Download size={16} aria-hidden="true" />
      {give.busy ? 'Writing …' : 'Export'}
    </button>
  {/snippet}
</PageHead>
{#if give.problem}<div class="mb-4"><Problem problem={give.problem} /></div>{/if}
<DropPlace {parcel} />
{#if parcel.files}<FilesView {parcel} />{/if}
{#if parcel.bundle}{#key parcel.bundle}<BundleView
      bundle={parcel.bundle}
      onLeave={() => parcel.leave()}
    />{/key}{/if}
<Removals />

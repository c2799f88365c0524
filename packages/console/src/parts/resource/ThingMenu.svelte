<script lang="ts">
import Copy from '@lucide/svelte/icons/copy';
import Download from '@lucide/svelte/icons/download';
import Ellipsis from '@lucide/svelte/icons/ellipsis';
import Link from '@lucide/svelte/icons/link';
import Share from '@lucide/svelte/icons/share-2';
import Trash from '@lucide/svelte/icons/trash-2';
import { DropdownMenu } from 'bits-ui';
import { problemOf } from '../../state/api.js';
import { saveFile } from '../../state/files.js';
import { notices } from '../../state/notices.svelte.js';
import { removing } from '../../state/removing.svelte.js';
import { router } from '../../state/router.svelte.js';
import { type Sort, thingType, type ThingType } from '../../state/things.js';
import UsesWindow from './UsesWindow.svelte';

interface Props {
  sort: ThingType;
  name: string;
  /** What people call it, where its name is an id. */
  shown?: string;
  onRemoved?: () => void;
}
/** What can be done with any thing: see what uses it, copy it, export it, share a link to it, remove it. */
let { sort, name, shown = name, onRemoved = () => {} }: Props = $props();
let asking = $state(false);
const thing = $derived(thingType(sort));

/** A copy gets the first name that is free; it is renamed where it stands. */
async function copy() {
  const base = /^(.*?)(?:-(\d+))?$/.exec(name)!;
  for (let count = Number(base[2] ?? 1) + 1; count < 100; count++) {
    const to = `${base[1]}-${count}`;
    try {
      await thing.copy!(name, to);
      notices.tell(`Copied ${thing.word} ${name} as ${to}.`);
      if (thing.page) router.go(thing.page(to));
      return;
    } catch (error) {
      const problem = problemOf(error);
      if (problem.code !== 'already_there') return notices.tell(problem.detail, { problem });
    }
  }
}

async function download(file: NonNullable<Sort['exports']>[number]) {
  try {
    saveFile(file.file(name), await file.text(name), 'application/yaml');
    notices.tell(`Saved ${file.file(name)}.`);
  } catch (error) {
    const problem = problemOf(error);
    notices.tell(problem.detail, { problem });
  }
}
async function share(page: string) {
  const address = new URL(page, location.href).href;
  try {
    await navigator.clipboard.writeText(address);
    notices.tell(`Copied the link to ${thing.word} ${shown}.`);
  } catch {
    // Without a secure context the browser does not allow it.
    notices.tell(address);
  }
}
</script>

<DropdownMenu.Root>
  <DropdownMenu.Trigger class="icon-button" aria-label="More about {shown}">
    <Ellipsis size={18} aria-hidden="true" />
  </DropdownMenu.Trigger>
  <DropdownMenu.Portal>
    <DropdownMenu.Content class="menu" align="end" sideOffset={4}>
      {#if thing.uses}
        <DropdownMenu.Item class="menu-item" onSelect={() => (asking = true)}>
          <Link size={16} aria-hidden="true" /> Used by
        </DropdownMenu.Item>
      {/if}
      {#if thing.copy}
        <DropdownMenu.Item class="menu-item" onSelect={() => void copy()}>
          <Copy size={16} aria-hidden="true" /> Copy
        </DropdownMenu.Item>
      {/if}
      {#each thing.exports ?? [] as file (file.label)}
        <DropdownMenu.Item class="menu-item" onSelect={() => void download(file)}>
          <Download size={16} aria-hidden="true" />
          {file.label}
        </DropdownMenu.Item>
      {/each}
      {#if thing.page}
        {@const page = thing.page(name)}
        <DropdownMenu.Item class="menu-item" onSelect={() => void share(page)}>
          <Share size={16} aria-hidden="true" /> Share link
        </DropdownMenu.Item>
      {/if}
      <DropdownMenu.Item
        class="menu-item text-rowan"
        onSelect={() => void removing.remove(sort, name, onRemoved, shown)}
      >
        <Trash size={16} aria-hidden="true" /> Remove
      </DropdownMenu.Item>
    </DropdownMenu.Content>
  </DropdownMenu.Portal>
</DropdownMenu.Root>
{#if asking}<UsesWindow {sort} {name} bind:open={asking} />{/if}

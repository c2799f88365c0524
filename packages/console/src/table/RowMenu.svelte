<script lang="ts">
import Ellipsis from '@lucide/svelte/icons/ellipsis';
import History from '@lucide/svelte/icons/history';
import Trash from '@lucide/svelte/icons/trash-2';
import { DropdownMenu } from 'bits-ui';

let { id, onHistory, onRemove }: { id: number; onHistory: () => void; onRemove: () => void } = $props();
</script>

<DropdownMenu.Root>
  <DropdownMenu.Trigger class="icon-button size-6" aria-label="More about row {id}" tabindex={-1}>
    <Ellipsis size={16} aria-hidden="true" />
  </DropdownMenu.Trigger>
  <DropdownMenu.Portal>
    <DropdownMenu.Content class="menu" align="end">
      <DropdownMenu.Item class="menu-item" onSelect={onHistory}>
        <History size={16} aria-hidden="true" /> History
      </DropdownMenu.Item>
      <DropdownMenu.Item class="menu-item text-rowan" onSelect={onRemove}>
        <Trash size={16} aria-hidden="true" /> Remove row
      </DropdownMenu.Item>
    </DropdownMenu.Content>
  </DropdownMenu.Portal>
</DropdownMenu.Root>

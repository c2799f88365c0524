<script lang="ts">
import FileCode from '@lucide/svelte/icons/file-code';

interface Props {
  label: string;
  isOpen: boolean;
  onToggle: () => void;
}
/** Shows a field as YAML. */
let { label, isOpen, onToggle }: Props = $props();
</script>

<button
  type="button"
  class="field-tool"
  aria-pressed={isOpen}
  aria-label="Show {label} as YAML"
  title="As YAML"
  onclick={onToggle}
>
  <FileCode size={15} aria-hidden="true" />
</button>

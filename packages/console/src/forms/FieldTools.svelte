<script lang="ts">
import Braces from '@lucide/svelte/icons/braces';
import FileCode from '@lucide/svelte/icons/file-code';

type View = 'form' | 'expression' | 'yaml';
interface Props {
  label: string;
  view: View;
  /** Whether an expression may stand here. */
  expression: boolean;
  yaml: boolean;
  onView: (view: View) => void;
}
/** How a field is written: by its form, as an expression, or as YAML. */
let { label, view, expression, yaml, onView }: Props = $props();
</script>

{#if expression}
  <button
    type="button"
    class="field-tool"
    aria-pressed={view === 'expression'}
    aria-label="Write {label} as an expression"
    title="Use an expression"
    onclick={() => onView(view === 'expression' ? 'form' : 'expression')}
  >
    <Braces size={15} aria-hidden="true" />
  </button>
{/if}
{#if yaml}
  <button
    type="button"
    class="field-tool"
    aria-pressed={view === 'yaml'}
    aria-label="Show {label} as YAML"
    title="As YAML"
    onclick={() => onView(view === 'yaml' ? 'form' : 'yaml')}
  >
    <FileCode size={15} aria-hidden="true" />
  </button>
{/if}

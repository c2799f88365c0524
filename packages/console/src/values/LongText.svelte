<script lang="ts">
import { plural } from '../state/format.js';

/** The beginning of a long text; the rest on a click. */
let { text }: { text: string } = $props();
const SHOWN = 500;
let open = $state(false);
</script>

<span class="value-text">{open ? text : `${text.slice(0, SHOWN)} …`}</span>
<button type="button" class="link text-sm" onclick={() => (open = !open)}>
  {open ? 'Show less' : `Show all ${plural(text.length, 'character')}`}
</button>

<script lang="ts">
import { dayOf, exact } from '../state/format.js';

/** A day or a moment in the reader's own form, as it was written on hover. */
let { at, day }: { at: string; day: boolean } = $props();
// A day has no time zone: read as one of the reader's it might be the day before.
const date = $derived(day ? new Date(`${at}T00:00:00`) : new Date(at));
</script>

<time datetime={at} title={at}>{day ? dayOf(date) : exact(at)}</time>

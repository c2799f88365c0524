<script lang="ts">
import BookOpen from '@lucide/svelte/icons/book-open';
import { router } from '../../state/router.svelte.js';
import { placeOf } from './places.js';

/** Leads from a page to its documentation. */
const to = $derived(placeOf(router.path).docs);
</script>

<a class="icon-button" href="/docs/{to}" aria-label="Documentation of this page" title="Documentation">
  <BookOpen size={17} aria-hidden="true" />
</a>

<script lang="ts">
import MakeCredential from '../make/MakeCredential.svelte';
import MakeModel from '../make/MakeModel.svelte';
import MakeTable from '../make/MakeTable.svelte';

/** Makes a credential, a model connection or a table in the middle of filling a form. */
let { sort, onMade }: { sort: string; onMade: (name: string) => void } = $props();
const FORMS = { credential: MakeCredential, model: MakeModel, table: MakeTable };
const Form = $derived(FORMS[sort as keyof typeof FORMS]);
</script>

<div class="mt-2 rounded-md border border-line p-3" role="group" aria-label="New {sort}">
  <Form {onMade} use="Save and use" nested />
</div>

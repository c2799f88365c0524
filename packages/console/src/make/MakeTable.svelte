<script lang="ts">
import type { ColumnType } from '@pindro/contract/light';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';
import ColumnsForm from './ColumnsForm.svelte';
import MakeForm from './MakeForm.svelte';

interface Props {
  onMade: (name: string) => void;
  use?: string;
  nested?: boolean;
}
/** Makes a table out of a name and columns. */
let { onMade, use = 'Create table', nested = false }: Props = $props();
const uid = $props.id();
let name = $state('');
let columns = $state<{ name: string; type: ColumnType }[]>([{ name: 'name', type: 'text' }]);
const named = $derived(columns.filter((one) => one.name.trim() !== ''));
const make = new Action(async () => {
  const body = { name, columns: Object.fromEntries(named.map((one) => [one.name.trim(), one.type])) };
  await api.createTable({ body });
  onMade(name);
});
</script>

<MakeForm action={make} {use} {nested} ready={name !== '' && named.length > 0}>
  <label class="label" for="{uid}-name">Name</label>
  <input id="{uid}-name" class="field mb-3" bind:value={name} required placeholder="bookings" />
  <ColumnsForm bind:columns />
</MakeForm>

<script lang="ts">
import { readStructured } from './structured.js';
import Value from './Value.svelte';

/** A text that may be data: data as people read it, and words as they are. */
let { text }: { text: string } = $props();
const data = $derived(readStructured(text));
</script>

{#if data !== null}<Value value={data} name="result" json={false} />
{:else}<span class="whitespace-pre-wrap wrap-anywhere">{text || '(calls tools)'}</span>{/if}

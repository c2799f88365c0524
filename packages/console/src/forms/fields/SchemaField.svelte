<script lang="ts">
import { isObject, type JsonSchema } from '@pindro/core/browser';
import type { Snippet } from 'svelte';
import FieldFrame from '../FieldFrame.svelte';
import type { FieldProps } from '../place.js';
import PropertiesForm from '../PropertiesForm.svelte';

/** A JSON Schema of fields: which there are, what each takes, and whether it must be there. */
let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
const value = $derived((isObject(props.value) ? props.value : {}) as JsonSchema);
</script>

<FieldFrame {...props} {tools} group>
  <PropertiesForm id={props.id} what="field" schema={value} onChange={(next) => props.onChange(next)} />
</FieldFrame>

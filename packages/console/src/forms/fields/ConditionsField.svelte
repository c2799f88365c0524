<script lang="ts">
import { isObject } from '@pindro/core/browser';
import type { Snippet } from 'svelte';
import Conditions from '../Conditions.svelte';
import FieldFrame from '../FieldFrame.svelte';
import type { FieldProps } from '../place.js';

let { tools, ...props }: FieldProps & { tools?: Snippet } = $props();
</script>

<FieldFrame {...props} {tools} group>
  <Conditions
    {...props}
    value={isObject(props.value) ? props.value : {}}
    onChange={(next) => props.onChange(Object.keys(next).length > 0 ? next : undefined)}
  />
</FieldFrame>

<script lang="ts">
import {
  asRules,
  describeType,
  isObject,
  type JsonObject,
  type JsonSchema,
  supplierOf,
  supplierWords,
} from '@pindro/core/browser';

/** The arguments of a tool, with who supplies each for everybody. */
let { schema, rules, bare = false }: { schema: JsonSchema; rules: JsonObject; bare?: boolean } = $props();
const required = $derived(Array.isArray(schema.required) ? schema.required : []);
const all = $derived(isObject(schema.properties) ? Object.entries(schema.properties) : []);
const supplier = (name: string) => supplierWords(supplierOf(name, asRules(rules)), null);
</script>

{#if all.length === 0}
  <p class="text-soft">No arguments.</p>
{:else}
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <div class="rows" role="region" aria-label="Arguments" tabindex="0">
    <table>
      <thead>
        <tr>
          <th scope="col">Argument</th><th scope="col">Type</th><th scope="col">Description</th>{#if !bare}<th
              scope="col">Supplied by</th
            >{/if}
        </tr>
      </thead>
      <tbody>
        {#each all as [name, part] (name)}
          {@const own = (isObject(part) ? part : {}) as JsonSchema}
          <tr>
            <td class="font-mono text-sm">{name}</td>
            <td class="whitespace-nowrap text-sm"
              >{describeType(own)}{required.includes(name) ? ', required' : ''}</td
            >
            <td class="text-sm">{own.description ?? ''}</td>
            {#if !bare}<td class="text-sm {name in rules ? 'text-spruce' : 'text-soft'}">{supplier(name)}</td>{/if}
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{/if}

<script lang="ts">
import { isObject, type JsonObject, type JsonSchema } from '@pindro/core/browser';
import { describeType } from '../forms/describe.js';

/** The arguments of a tool, with who supplies each for everybody. */
let { schema, rules, bare = false }: { schema: JsonSchema; rules: JsonObject; bare?: boolean } = $props();
const required = $derived(Array.isArray(schema.required) ? schema.required : []);
const all = $derived(isObject(schema.properties) ? Object.entries(schema.properties) : []);

function supplier(name: string): string {
  const rule = rules[name];
  if (rule === 'omit') return 'nobody: it is left out';
  if (isObject(rule) && 'set' in rule) {
    const text = typeof rule.set === 'string' ? rule.set : JSON.stringify(rule.set);
    return text.includes('${') ? `worked out: ${text}` : `always ${text}`;
  }
  return 'whoever calls it';
}
</script>

{#if all.length === 0}
  <p class="text-soft">It takes no arguments.</p>
{:else}
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <div class="rows" role="region" aria-label="Arguments" tabindex="0">
    <table>
      <thead>
        <tr>
          <th scope="col">Argument</th><th scope="col">Type</th><th scope="col">What it is</th>{#if !bare}<th
              scope="col">Supplied by</th
            >{/if}
        </tr>
      </thead>
      <tbody>
        {#each all as [name, part] (name)}
          {@const own = (isObject(part) ? part : {}) as JsonSchema}
          <tr>
            <td class="font-mono text-sm">{name}</td>
            <td class="whitespace-nowrap text-sm">{describeType(own)}{required.includes(name) ? ', needed' : ''}</td
            >
            <td class="text-sm">{own.description ?? ''}</td>
            {#if !bare}<td class="text-sm {name in rules ? 'text-spruce' : 'text-soft'}">{supplier(name)}</td>{/if}
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{/if}

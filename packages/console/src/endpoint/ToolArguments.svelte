<script lang="ts">
import type { ArgumentRow, ExposedTool } from '@pindro/contract/light';
import { known } from '../forms/known.svelte.js';
import SuppliedBy from '../forms/SuppliedBy.svelte';
import type { Supplier } from '../forms/supplied-by.js';
import SelectValue from '../forms/SelectValue.svelte';
import { sourceOfArgument, sourceOfInput, type ValueSource } from '../forms/value-source.js';
import type { Wording } from './describe-tool.js';

/** Who supplies each argument of a tool, and what a model reads of it or the value. */
let { tool, word }: { tool: ExposedTool; word: Wording } = $props();
const HEADINGS = ['Argument', 'Type', 'Supplied by', 'Description or value'];

/** Arguments that the builder wants to supply and has not given a value yet. */
let awaiting = $state.raw<string[]>([]);
const SUPPLIER: Record<ArgumentRow['supplied'], Supplier> = { asked: 'caller', set: 'value', omitted: 'nobody' };
function supply(argument: ArgumentRow, next: Supplier) {
  awaiting = awaiting.filter((name) => name !== argument.name);
  if (next === 'value') awaiting = [...awaiting, argument.name];
  else if (next === 'caller' && argument.rule === 'server')
    void word.run({ arguments: { [argument.name]: 'ask' } });
  else void word.run({ arguments: { [argument.name]: next === 'nobody' ? 'omit' : null } });
}
const supplied = (argument: ArgumentRow) => (awaiting.includes(argument.name) ? 'set' : argument.supplied);
function setValue(argument: ArgumentRow, text: string) {
  let value: unknown = text;
  try {
    value = JSON.parse(text);
  } catch {
    // A plain text.
  }
  void word.run({ arguments: { [argument.name]: { set: value } } }).then((done) => {
    if (done) awaiting = awaiting.filter((name) => name !== argument.name);
  });
}
/** Where the values of an argument come from: the server of the tool, or what the input of the flow says. */
function sourceOf({ name }: ArgumentRow): ValueSource | null {
  const flow = /^flow (.+)$/.exec(tool.target)?.[1];
  if (flow) {
    const schema = known.inputOfFlow(flow);
    return schema ? sourceOfInput(flow, schema, name, {}) : null;
  }
  const [server = '', ...rest] = tool.target.split('.');
  return rest.length > 0 ? sourceOfArgument(server, rest.join('.'), name, {}, known.toolsOfServer(server)) : null;
}
const asText = (value: unknown) => (typeof value === 'string' ? value : JSON.stringify(value));
</script>

<div class="overflow-x-auto">
  <p class="label" aria-hidden="true">Arguments</p>
  <table class="w-full text-left text-sm">
    <caption class="sr-only">Arguments</caption>
    <thead
      ><tr class="border-b border-line text-soft"
        >{#each HEADINGS as heading (heading)}<th scope="col" class="py-1.5 pr-4 font-medium">{heading}</th
          >{/each}</tr
      ></thead
    >
    <tbody>
      {#each tool.arguments as argument (argument.name)}
        <tr class="border-b border-line align-top last:border-0">
          <th scope="row" class="py-2 pr-4 font-mono font-normal"
            >{argument.name}{#if !argument.required}<span class="block font-sans text-soft">optional</span>{/if}</th
          >
          <td class="max-w-48 py-2 pr-4 text-soft wrap-anywhere">{argument.type}</td>
          <td class="py-2 pr-4"
            ><SuppliedBy
              label="{argument.name} of {tool.name}"
              words={false}
              value={SUPPLIER[supplied(argument)]}
              choices={argument.required ? ['caller', 'value'] : ['caller', 'value', 'nobody']}
              onChange={(next) => supply(argument, next)}
            />{#if argument.rule === 'server' && argument.supplied !== 'asked'}<span class="mt-1 block text-soft"
                >argument rule of the tool server</span
              >{/if}</td
          >
          <td class="w-1/2 py-2">
            {#if supplied(argument) === 'set'}<span class="flex items-center gap-1"
                ><input
                  class="field py-1 font-mono"
                  aria-label="Value of {argument.name}"
                  value={argument.value === null ? '' : asText(argument.value)}
                  placeholder={argument.type}
                  onchange={(event) => setValue(argument, event.currentTarget.value)}
                />{#if sourceOf(argument)}<SelectValue
                    label={argument.name}
                    source={sourceOf(argument)!}
                    onSelect={(value) => setValue(argument, JSON.stringify(value))}
                  />{/if}</span
              >
            {:else if supplied(argument) === 'asked'}<input
                class="field py-1"
                aria-label="Description of {argument.name}"
                value={argument.description}
                onchange={(event) =>
                  void word.run({
                    arguments: { [argument.name]: { ask: { description: event.currentTarget.value } } },
                  })}
              />
            {:else}<span class="text-soft">Neither offered nor sent.</span>{/if}
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
</div>

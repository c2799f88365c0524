<script lang="ts">
import { type ComparedField, compareTexts, compareValues, type Json, type TextPiece } from '@pindro/core/browser';
import { plural } from '../../state/format.js';
import Value from '../../values/Value.svelte';

interface Props {
  /** Which part is compared, such as the input. */
  part: string;
  one: Json | undefined;
  other: Json | undefined;
}
/** Two values field by field: what differs is marked, what is equal is folded. */
let { part, one, other }: Props = $props();
/** So many differing fields are drawn at first. */
const AT_FIRST = 40;
let all = $state(false);
const fields = $derived(compareValues(one, other));
const differing = $derived(fields.filter(({ same }) => !same));
const equal = $derived(fields.filter(({ same }) => same));
const shown = $derived(all ? differing : differing.slice(0, AT_FIRST));

const nameOf = ({ path }: ComparedField) =>
  path.map((name) => (typeof name === 'number' ? String(name + 1) : name.replaceAll('_', ' '))).join(' › ') || part;
const short = (value: unknown) =>
  typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean';
/** Both values in pieces, where both are texts or numbers; null for others. */
function marked(field: ComparedField): [TextPiece[], TextPiece[]] | null {
  return short(field.one) && short(field.other) ? compareTexts(String(field.one), String(field.other)) : null;
}
</script>

{#snippet cell(value: Json | undefined, pieces: TextPiece[] | undefined, name: string)}
  {#if value === undefined}<span class="text-soft">absent</span>
  {:else if pieces}<span class="value-text"
      >{#each pieces as piece, index (index)}{#if piece.differs}<mark class="compare-mark">{piece.text}</mark
          >{:else}{piece.text}{/if}{/each}</span
    >
  {:else if short(value)}<Value {value} {name} json={false} />
  {:else}<details>
      <summary class="cursor-pointer text-soft">Show value</summary>
      <Value {value} {name} json={false} />
    </details>{/if}
{/snippet}

{#each shown as field (JSON.stringify(field.path))}
  {@const pieces = marked(field)}
  <tr class="compare-field">
    <th scope="row">{nameOf(field)}</th>
    <td>{@render cell(field.one, pieces?.[0], `${nameOf(field)}, this run`)}</td>
    <td>{@render cell(field.other, pieces?.[1], `${nameOf(field)}, other run`)}</td>
  </tr>
{/each}
{#if shown.length < differing.length}
  <tr
    ><td colspan="3"
      ><button type="button" class="button button-small" onclick={() => (all = true)}
        >Show {plural(differing.length - shown.length, 'more difference')}</button
      ></td
    ></tr
  >
{/if}
{#if equal.length > 0}
  <tr>
    <td colspan="3">
      <details class="text-sm">
        <summary class="cursor-pointer text-soft">{plural(equal.length, 'equal field')}</summary>
        <dl class="value-tree mt-1">
          {#each equal as field (JSON.stringify(field.path))}
            <div class="value-leaf">
              <dt>{nameOf(field)}</dt>
              <dd>
                {#if field.one === undefined}<span class="text-soft">absent</span>{:else}<Value
                    value={field.one}
                    name={nameOf(field)}
                    json={false}
                  />{/if}
              </dd>
            </div>
          {/each}
        </dl>
      </details>
    </td>
  </tr>
{/if}

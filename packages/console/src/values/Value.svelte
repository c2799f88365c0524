<script lang="ts">
import { getContext, setContext } from 'svelte';
import { humanSize } from '../state/format.js';
import CutValue from './CutValue.svelte';
import JsonOf from './JsonOf.svelte';
import { lookOf } from './format.js';
import LongText from './LongText.svelte';
import Moment from './Moment.svelte';
import TreeValue from './TreeValue.svelte';
import ValueTable from './ValueTable.svelte';
import { WITHIN } from './within.js';

interface Props {
  value: unknown;
  name?: string;
  /** Whether its JSON can be shown next to it. */
  json?: boolean;
  /** Its path in the displayed value, for copying. */
  path?: string;
  /** Loads it whole, where it was cut. */
  whole?: (() => Promise<unknown>) | undefined;
}
/** A value as people read it: never raw JSON, which is one click away. */
let { value, name = 'value', json = true, path = '', whole }: Props = $props();
// A part of a value is identified by the value it belongs to.
const within = getContext<() => string>(WITHIN);
if (!within) setContext(WITHIN, () => name);
const look = $derived(lookOf(value, name));
const isNested = $derived(typeof value === 'object' && value !== null && Object.keys(value).length > 0);
</script>

{#if look.look === 'plain'}
  <span class="value-text">{look.text}</span>
{:else if look.look === 'nothing'}
  <span class="text-soft">{look.says}</span>
{:else if look.look === 'long'}
  <LongText text={look.text} />
{:else if look.look === 'link'}
  <a class="link wrap-anywhere" href={look.url} target="_blank" rel="noopener noreferrer">{look.url}</a>
{:else if look.look === 'moment'}
  <Moment at={look.at} day={look.day} />
{:else if look.look === 'size'}
  <span title="{look.bytes} bytes">{humanSize(look.bytes)}</span>
{:else if look.look === 'picture'}
  <img src={look.source} alt="Shown as {name}" class="value-picture" />
{:else if look.look === 'sound'}
  <audio src={look.source} controls class="max-w-full"></audio>
{:else if look.look === 'cut'}
  <CutValue {...look} {name} {whole} />
{:else if look.look === 'line'}
  <span class="value-text">{look.words.join(', ')}</span>
{:else if look.look === 'table'}
  <ValueTable columns={look.columns} rows={look.rows} {name} />
{:else}
  <TreeValue {value} {path} />
{/if}
{#if json && isNested && look.look !== 'cut'}<JsonOf {value} {name} />{/if}

<script lang="ts">
import HandHelping from '@lucide/svelte/icons/hand-helping';
import ListTree from '@lucide/svelte/icons/list-tree';
import type { Evaluation } from '@pindro/contract';
import type { Json } from '@pindro/core/browser';
import { api } from '../state/api.js';
import { brief } from '../state/format.js';
import AskCaller from './AskCaller.svelte';
import DataTree from './DataTree.svelte';
import { expressionAt, type Reachable } from './data.js';
import type { FieldPlace } from './place.js';

interface Props {
  id: string;
  label: string;
  about?: string;
  value: Json | undefined;
  place: FieldPlace;
  path: string[];
  required?: boolean;
  mono?: boolean;
  /** Whether the text holds no expressions, like the code of a script. */
  plain?: boolean;
  /** A text as the type the field takes, for example a number. */
  read?: (text: string) => Json;
  onChange: (value: Json | undefined) => void;
  /** Set where the text stands for a value of any shape: what was typed, how it is taken, and why it cannot be read. */
  written?: { text: string; type: (text: string) => void; wrong: string };
}
/** A text with expressions: completed while typing, shown with what comes out, with its mistakes below it. */
let {
  id,
  label,
  about = '',
  value,
  place,
  path,
  required = false,
  mono = false,
  plain = false,
  read = (text) => text,
  onChange,
  written,
}: Props = $props();

let field = $state<HTMLTextAreaElement>();
let word = $state<{ from: number; word: string } | null>(null);
let at = $state(0);
let tree = $state(false);
let asking = $state(false);
let preview = $state.raw<Evaluation | null>(null);
const text = $derived(
  written
    ? written.text
    : value === undefined || value === null
      ? ''
      : typeof value === 'string'
        ? value
        : JSON.stringify(value),
);
const mistakes = $derived(place.editor.mistakesAt(path));
const matches = $derived(
  word
    ? place.data
        .filter((one) => one.path.toLowerCase().includes(word!.word.toLowerCase()) && one.path !== word!.word)
        .slice(0, 12)
    : [],
);

// What comes out is worked out by the service: it knows expressions.
$effect(() => {
  if (plain || !text.includes('${')) {
    preview = null;
    return;
  }
  const body = {
    value: (written ? (value ?? '') : text) as never,
    input: (place.lastInput ?? {}) as never,
    steps: place.lastOutputs as never,
  };
  const timer = setTimeout(async () => {
    preview = await api.evaluate({ body }).catch(() => null);
  }, 250);
  return () => clearTimeout(timer);
});

function take(next: string) {
  if (written) written.type(next);
  else onChange(next === '' ? undefined : next.includes('${') ? next : read(next));
}
function typed(event: Event & { currentTarget: HTMLTextAreaElement }) {
  const { value: now, selectionStart } = event.currentTarget;
  take(now);
  word = plain ? null : expressionAt(now, selectionStart);
  at = 0;
}
function insert(one: Reachable, replace: { from: number; word: string } | null) {
  const element = field!;
  const cursor = element.selectionStart;
  const inside = replace ?? expressionAt(text, cursor);
  const from = replace ? replace.from : cursor;
  const put = inside ? one.path : `\${ ${one.path} }`;
  const next = text.slice(0, from) + put + text.slice(replace ? replace.from + replace.word.length : cursor);
  take(next);
  word = null;
  queueMicrotask(() => {
    element.focus();
    const end = from + put.length;
    element.setSelectionRange(end, end);
  });
}
function pressed(event: KeyboardEvent) {
  if (!word || matches.length === 0) return;
  if (event.key === 'ArrowDown') at = (at + 1) % matches.length;
  else if (event.key === 'ArrowUp') at = (at + matches.length - 1) % matches.length;
  else if (event.key === 'Enter' || event.key === 'Tab') insert(matches[at]!, word);
  else if (event.key === 'Escape') word = null;
  else return;
  event.preventDefault();
  event.stopPropagation();
}
const rows = $derived(Math.min(14, Math.max(1, text.split('\n').length, Math.ceil(text.length / 46))));
</script>

<div class="relative mb-4">
  <div class="mb-1 flex items-center justify-between gap-2">
    <label class="font-medium" for={id}>{label}{#if !required}{' '}<span class="font-normal text-soft">(if you like)</span>{/if}</label>
    {#if !plain}
      <span class="flex gap-1">
        <button type="button" class="rounded p-1 text-soft hover:text-spruce" aria-label="Data for {label}" title="Data that is there" aria-expanded={tree} onclick={() => (tree = !tree)}><ListTree size={16} aria-hidden="true" /></button>
        <button type="button" class="rounded p-1 text-soft hover:text-spruce" aria-label="Ask the caller for {label}" title="Ask the caller for this" aria-expanded={asking} onclick={() => (asking = !asking)}><HandHelping size={16} aria-hidden="true" /></button>
      </span>
    {/if}
  </div>
  <textarea {id} bind:this={field} class="field resize-y {mono ? 'font-mono text-[0.85rem]' : ''} {mistakes.length > 0 ? '!border-rowan' : ''}" {rows} value={text} oninput={typed} onkeydown={pressed} onblur={() => setTimeout(() => (word = null), 150)} aria-invalid={mistakes.length > 0} aria-describedby="{id}-about" spellcheck="false" autocomplete="off" aria-controls={plain ? undefined : `${id}-list`} aria-autocomplete={plain ? undefined : 'list'} aria-activedescendant={word && matches.length > 0 ? `${id}-list-${at}` : undefined}></textarea>
  <ul id="{id}-list" role="listbox" aria-label="Values for {label}" class="absolute z-10 mt-0.5 max-h-60 w-full overflow-auto rounded-md border border-line bg-card shadow-lg {word && matches.length > 0 ? '' : 'hidden'}">
    {#each word ? matches : [] as one, index (one.path)}
      <!-- svelte-ignore a11y_click_events_have_key_events (the field has the keys) -->
      <li id="{id}-list-{index}" role="option" aria-selected={index === at} class="flex cursor-pointer justify-between gap-3 px-3 py-1 {index === at ? 'bg-spruce-wash' : ''}" onmousedown={(event) => { event.preventDefault(); insert(one, word); }}>
        <span class="font-mono text-[0.85rem] wrap-anywhere">{one.path}</span><span class="shrink-0 text-sm text-soft">{one.value === undefined ? one.about : brief(one.value, 24)}</span>
      </li>
    {/each}
  </ul>
  <div id="{id}-about" class="mt-1 text-sm">
    {#if about}<p class="text-soft">{about}</p>{/if}
    {#if written?.wrong}<p class="text-rowan">{written.wrong}</p>{/if}
    {#each mistakes as mistake (mistake.at + mistake.message)}<p class="text-rowan">{mistake.message}{mistake.hint ? ` ${mistake.hint}` : ''}</p>{/each}
    {#if preview && mistakes.length === 0}
      <p class="text-soft" data-preview>{#if preview.error}<span class="text-ochre">{preview.error.message}</span>{:else if preview.value === undefined}<span class="text-ochre">{preview.missing[0] ?? 'nothing'}; run it once to see values here</span>{:else}comes out as <span class="chip">{brief(preview.value, 160)}</span>{/if}</p>
    {/if}
  </div>
  {#if tree}<DataTree data={place.data} onPick={(one) => insert(one, null)} />{/if}
  {#if asking}<AskCaller {label} {path} editor={place.editor} schema={place.schemaAt(path)} onDone={() => (asking = false)} />{/if}
</div>

<script lang="ts">
import type { Approval } from '@pindro/contract/light';
import { type Grant, GRANT_WORDS, humanDuration, type JsonObject, type JsonSchema } from '@pindro/core/browser';
import SchemaForm from '../forms/SchemaForm.svelte';
import Problem from '../parts/text/Problem.svelte';
import Value from '../values/Value.svelte';
import { api } from '../state/api.js';
import { moment, words } from '../state/format.js';
import { Action } from '../state/resource.svelte.js';

/** What somebody is asked before it happens: what will be sent, which can be changed, and yes or no. */
let { question, from = true }: { question: Approval; from?: boolean } = $props();
const uid = $props.id();
let note = $state('');
// svelte-ignore state_referenced_locally
let grant = $state<Grant>(question.grants.default);
let holds = $state('');
/** What is sent instead, once somebody changes it. */
// svelte-ignore state_referenced_locally
let changed = $state.raw<JsonObject | null>(question.tool === null && question.schema ? {} : null);
/** Whether something is asked for, and not whether something may be done. */
const isForm = $derived(question.tool === null && question.schema !== null);
/** Whether the approver may choose what the approval covers. */
const wider = $derived(question.grants.allowed.length > 1);
const decide = new Action((decision: 'approved' | 'refused') =>
  api.decide({
    run: question.run,
    body: {
      ...{ path: question.path, decision, note },
      ...(decision === 'approved' && changed && { value: changed }),
      ...(decision === 'approved' && wider && { grant, ...(grant !== 'call' && holds && { holds }) }),
    },
  }),
);
</script>

<div class="panel border-ochre/50" role="group" aria-labelledby="{uid}-title">
  <h2 id="{uid}-title">{question.title}</h2>
  <p class="mb-3 text-sm text-soft">
    {#if from}requested by flow <a class="link" href="/flows/{question.flow}">{words(question.flow)}</a>{/if}
    for {question.caller}, {moment(question.askedAt)}{question.until ? `; until ${moment(question.until)}` : ''}.
    {#if from}<a class="link" href="/runs/{question.run}">View run</a>{/if}
  </p>
  {#if question.message}<p class="mb-3 whitespace-pre-wrap">{question.message}</p>{/if}
  {#if changed && question.schema}
    <SchemaForm schema={question.schema as JsonSchema} bind:value={changed} />
  {:else if Object.keys(question.facts).length > 0}
    <div class="mb-3 rounded-md bg-sunk p-3">
      {#if question.tool}<p class="mb-1 text-sm text-soft">Arguments</p>{/if}
      <Value value={question.facts} name="facts" json={false} />
    </div>
  {/if}
  {#if question.tool}
    {#if wider}
      <div class="mb-3 flex flex-wrap items-end gap-3">
        <div>
          <label class="label" for="{uid}-grant">Approval covers</label>
          <select id="{uid}-grant" class="field" bind:value={grant}>
            {#each question.grants.allowed as one (one)}<option value={one}>{GRANT_WORDS[one]}</option>{/each}
          </select>
        </div>
        {#if grant !== 'call'}
          <div>
            <label class="label" for="{uid}-holds">Valid for</label>
            <input
              id="{uid}-holds"
              class="field"
              bind:value={holds}
              placeholder="{humanDuration(question.grants.longest)} (longest)"
            />
          </div>
        {/if}
      </div>
    {:else}
      <p class="mb-3 text-sm text-soft">An approval covers {GRANT_WORDS[question.grants.default]}.</p>
    {/if}
  {/if}
  {#if question.answers === 'caller'}
    <p class="mb-3 text-sm text-soft">Only {question.caller} may decide this.</p>
  {:else if question.fourEyes}
    <p class="mb-3 text-sm text-soft">Somebody other than {question.caller} must approve this.</p>
  {/if}
  <label class="label" for="{uid}-note">Note (optional)</label>
  <input id="{uid}-note" class="field mb-3" bind:value={note} />
  {#if decide.problem}<div class="mb-3"><Problem problem={decide.problem} /></div>{/if}
  <div class="flex flex-wrap gap-2">
    <button
      type="button"
      class="button button-main"
      disabled={decide.busy}
      onclick={() => void decide.run('approved')}
      >{isForm ? 'Answer' : changed ? 'Approve with changes' : 'Approve'}</button
    >
    <button type="button" class="button" disabled={decide.busy} onclick={() => void decide.run('refused')}>
      {isForm ? 'Skip' : 'Reject'}
    </button>
    {#if question.schema && question.tool}
      <button
        type="button"
        class="button"
        onclick={() => (changed = changed ? null : ({ ...question.facts } as JsonObject))}
        >{changed ? 'Reset' : 'Edit arguments'}</button
      >
    {/if}
  </div>
</div>

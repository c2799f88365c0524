<script lang="ts" module>
const DEFAULTS: Record<string, Record<string, unknown>> = {
  hook: { methods: ['POST'], guard: 'key', answer: 'result', origins: [], perMinute: 60 },
  form: {
    title: '',
    about: '',
    button: 'Send',
    after: 'message',
    message: 'Thank you. It has arrived.',
    address: '',
    perMinute: 60,
  },
  chat: { title: '', greeting: 'Hello. What can I do for you?', perMinute: 60 },
  schedule: { cron: '0 6 * * *', zone: '', missed: 'skip', overlap: 'skip' },
};
</script>

<script lang="ts">
import type { EntrySettings, FlowDetail, ProblemDetails } from '@pindro/contract/light';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import SchemaForm from '../forms/SchemaForm.svelte';
import Problem from '../parts/Problem.svelte';

interface Props {
  flow: FlowDetail;
  kind: EntrySettings['kind'];
  settings?: EntrySettings;
  path?: string;
  busy: boolean;
  problem: ProblemDetails | null;
  onSave: (settings: EntrySettings, path: string | undefined) => void;
}
/** What one way in takes. */
let { flow, kind, settings, path, busy, problem, onSave }: Props = $props();
const uid = $props.id();
const METHODS = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE'] as const;
// svelte-ignore state_referenced_locally
let given = $state<Record<string, unknown>>({ ...DEFAULTS[kind], ...settings });
// svelte-ignore state_referenced_locally
let address = $state(path ?? flow.name);
// svelte-ignore state_referenced_locally
let input = $state.raw<JsonObject>((settings?.kind === 'schedule' ? settings.input : {}) as JsonObject);
const text = (name: string) => String(given[name] ?? '');
const methods = $derived((given.methods ?? []) as string[]);
function save() {
  const whole = { ...given, kind, ...(kind === 'schedule' && { input }) };
  onSave(whole as EntrySettings, kind === 'schedule' ? undefined : address);
}
</script>

{#snippet line(name: string, label: string, about = '')}
  <div class="mb-4">
    <label class="label" for="{uid}-{name}">{label}</label><input
      id="{uid}-{name}"
      class="field"
      value={text(name)}
      oninput={(event) => (given[name] = event.currentTarget.value)}
    />{#if about}<p class="mt-1 text-sm text-soft">{about}</p>{/if}
  </div>
{/snippet}
{#snippet choice(name: string, label: string, options: [string, string][])}
  <div class="mb-4">
    <label class="label" for="{uid}-{name}">{label}</label><select
      id="{uid}-{name}"
      class="field"
      value={text(name)}
      onchange={(event) => (given[name] = event.currentTarget.value)}
      >{#each options as [value, words] (value)}<option {value}>{words}</option>{/each}</select
    >
  </div>
{/snippet}

<form
  onsubmit={(event) => {
    event.preventDefault();
    save();
  }}
>
  {#if kind !== 'schedule'}
    <label class="label" for="{uid}-path">Its own part of the address</label>
    <input id="{uid}-path" class="field mb-4 font-mono" bind:value={address} required />
  {/if}
  {#if kind === 'hook'}
    <fieldset class="mb-4">
      <legend class="label">Methods</legend>
      <div class="flex flex-wrap gap-4">
        {#each METHODS as method (method)}<label class="flex items-center gap-1.5"
            ><input
              type="checkbox"
              class="accent-[var(--spruce)]"
              checked={methods.includes(method)}
              onchange={(event) =>
                (given.methods = event.currentTarget.checked
                  ? [...methods, method]
                  : methods.filter((one) => one !== method))}
            />{method}</label
          >{/each}
      </div>
    </fieldset>
    {@render choice('guard', 'Who may call', [
      ['key', 'who has an access key'],
      ['signature', 'who signs with the secret'],
      ['open', 'everybody'],
    ])}
    {@render choice('answer', 'It answers', [
      ['result', "with the flow's result"],
      ['run', 'at once, with the id of the run'],
    ])}
    <div class="mb-4">
      <label class="label" for="{uid}-origins">Pages that may call it from a browser, by origin</label><input
        id="{uid}-origins"
        class="field"
        value={((given.origins ?? []) as string[]).join(', ')}
        onchange={(event) =>
          (given.origins = event.currentTarget.value
            .split(',')
            .map((one) => one.trim())
            .filter(Boolean))}
        placeholder="https://huts.example"
      />
    </div>
  {:else if kind === 'form'}
    {@render line('title', 'Title', "The flow's title if left out.")}
    {@render line('about', 'What stands above the form')}
    {@render line('button', 'Words on the button')}
    {@render choice('after', 'After it was sent', [
      ['message', 'a message'],
      ['address', 'another address'],
      ['form', 'another form'],
    ])}
    {#if given.after === 'message'}{@render line('message', 'The message')}{:else}{@render line(
        'address',
        given.after === 'form' ? 'Name of the next form' : 'The address',
      )}{/if}
  {:else if kind === 'chat'}
    {@render line('title', 'Title')}
    {@render line('greeting', 'What it says first')}
  {:else}
    {@render line(
      'cron',
      'When',
      'Five fields: minute, hour, day of month, month, day of week. “0 6 * * 1” is Mondays at six.',
    )}
    {@render line('zone', 'Time zone', "The workspace's if left out.")}
    {@render choice('missed', 'Times missed while Pindro was down', [
      ['skip', 'are left out'],
      ['once', 'are made up for, once'],
    ])}
    {@render choice('overlap', 'When the last run is still under way', [
      ['skip', 'the new one is left out'],
      ['wait', 'the new one waits'],
      ['allow', 'both run'],
    ])}
    <h3 class="mb-2 font-medium">What it gives the flow</h3>
    <SchemaForm schema={flow.input as JsonSchema} bind:value={input} />
  {/if}
  {#if kind !== 'schedule'}<div class="mb-4">
      <label class="label" for="{uid}-limit">At most so many a minute</label><input
        id="{uid}-limit"
        type="number"
        min="1"
        class="field"
        value={Number(given.perMinute ?? 60)}
        oninput={(event) => (given.perMinute = Number(event.currentTarget.value))}
      />
    </div>{/if}
  {#if problem}<div class="mb-4"><Problem {problem} /></div>{/if}
  <button class="button button-main" disabled={busy}>{busy ? 'Saving …' : settings ? 'Save' : 'Open it'}</button>
</form>

<script lang="ts">
import type { StepDocument } from '@pindro/core/browser';
import DurationField from '../../forms/fields/DurationField.svelte';
import { plainPlace } from '../../forms/place.js';
import type { Editor } from '../session/session.svelte.js';

/** What every step takes, whatever its kind: what a failure does, and words for whoever reads the flow. */
let { editor, step }: { editor: Editor; step: string } = $props();
const uid = $props.id();
const now = $derived(editor.steps[step]!);
const TIMEOUT = { form: 'duration', description: 'For each attempt. By default the limit of the step kind.' };
const headings = $derived([...new Set(Object.values(editor.steps).flatMap(({ under }) => under ?? []))]);

const put = (change: Partial<Record<keyof StepDocument, unknown>>, key = '') =>
  editor.change(step, change as Partial<StepDocument>, key);
function retry(change: Record<string, unknown>) {
  const next = { times: 1, ...now.retry, ...change };
  put({ retry: Number(next.times) > 0 ? next : undefined }, 'retry');
}
</script>

<details class="mb-4">
  <summary class="field-more">On failure, note, group, title</summary>
  <div class="mt-3">
    <label class="label" for="{uid}-error">On failure</label>
    <select
      id="{uid}-error"
      class="field mb-3"
      value={now.on_error ?? 'stop'}
      onchange={({ currentTarget: { value } }) => put({ on_error: value === 'stop' ? undefined : value })}
    >
      <option value="stop">stop the run</option>
      <option value="continue">continue</option>
      <option value="branch">follow the branch “error”</option>
    </select>
    <DurationField
      id="{uid}-timeout"
      label="Timeout"
      schema={TIMEOUT}
      value={now.timeout}
      path={[...editor.at(step), 'timeout']}
      place={plainPlace()}
      required={false}
      plain
      onChange={(value) => put({ timeout: value }, 'timeout')}
    />
    <label class="label" for="{uid}-retry">Retries</label>
    <input
      id="{uid}-retry"
      type="number"
      min="0"
      max="20"
      class="field mb-3"
      value={now.retry?.times ?? 0}
      oninput={(event) => retry({ times: Number(event.currentTarget.value) })}
    />
    {#if now.retry}
      <DurationField
        id="{uid}-pause"
        label="Delay between retries"
        schema={{ default: '1s' }}
        value={now.retry.pause}
        path={[...editor.at(step), 'retry', 'pause']}
        place={plainPlace()}
        required={false}
        plain
        onChange={(value) => retry({ pause: value })}
      />
      <label class="mb-3 flex items-center gap-2 text-sm">
        <input
          type="checkbox"
          class="tick"
          checked={now.retry.repeat === true}
          onchange={(event) => retry({ repeat: event.currentTarget.checked })}
        />also if the failed attempt may have taken effect
      </label>
    {/if}
    <label class="label" for="{uid}-note">Note</label>
    <textarea
      id="{uid}-note"
      class="field mb-3"
      rows="2"
      placeholder="A note for readers of the flow"
      value={now.note ?? ''}
      oninput={(event) => put({ note: event.currentTarget.value || undefined }, 'note')}></textarea>
    <label class="label" for="{uid}-under">Group</label>
    <input
      id="{uid}-under"
      class="field mb-3"
      list="{uid}-headings"
      value={now.under ?? ''}
      onchange={(event) => editor.gather([step], event.currentTarget.value)}
    />
    <datalist id="{uid}-headings">
      {#each headings as heading (heading)}<option value={heading}></option>{/each}
    </datalist>
    <label class="label" for="{uid}-title">Title</label>
    <input
      id="{uid}-title"
      class="field"
      value={now.title ?? ''}
      oninput={(event) => put({ title: event.currentTarget.value || undefined }, 'title')}
    />
  </div>
</details>

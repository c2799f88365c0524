<script lang="ts">
import Wrench from '@lucide/svelte/icons/wrench';
import SecretInput from '../forms/SecretInput.svelte';
import Problem from '../parts/text/Problem.svelte';
import { allOf, type Attaching } from './attaching.svelte.js';
import TestParts from './TestParts.svelte';

/** One recognized server: its address, what is sent, corrections, and missing values. */
interface Props {
  one: Attaching;
  many: boolean;
  /** Whether the text is another one already. */
  stale: boolean;
  /** Says whether a value is a secret. */
  onChoose: (name: string, secret: boolean) => void;
}
let { one, many, stale, onChoose }: Props = $props();
const uid = $props.id();
const { server, attach } = $derived(one);
const along = $derived(allOf(server).filter(({ missing }) => !missing));
</script>

<form
  class="panel mb-3"
  aria-label="Tool server {server.name}"
  onsubmit={(event) => {
    event.preventDefault();
    void attach.run();
  }}
>
  {#if server.title}<p class="mb-1 font-semibold">{server.title}</p>{/if}
  <p class="mb-2 font-mono text-sm wrap-anywhere">{server.url ?? server.command}</p>
  {#if along.length > 0}
    <fieldset class="mb-3 text-sm">
      <legend class="text-soft"
        >Values to send. Checked values are secrets: stored encrypted and never shown.</legend
      >
      {#each along as value (value.name)}
        <label class="flex items-start gap-2 py-0.5">
          <input
            type="checkbox"
            class="mt-1"
            checked={value.secret}
            disabled={stale}
            onchange={(event) => onChoose(value.name, event.currentTarget.checked)}
          />
          <span class="min-w-0 wrap-anywhere">
            <span class="font-mono">{value.name}{value.secret ? '' : `: ${value.value}`}</span>
            {#if value.secret && value.why}<span class="text-soft">({value.why})</span>{/if}
          </span>
        </label>
      {/each}
    </fieldset>
  {/if}
  {#if server.repairs.length > 0}
    <ul class="mb-3 space-y-1 rounded-md bg-ochre-wash px-3 py-2 text-sm text-ochre" aria-label="Corrections">
      {#each server.repairs as repair (repair)}
        <li class="flex items-start gap-2">
          <Wrench size={14} class="mt-1 shrink-0" aria-hidden="true" />{repair}
        </li>
      {/each}
    </ul>
  {/if}
  {#if server.cannot}
    <p class="text-rowan">{server.cannot}</p>
  {:else}
    <fieldset disabled={stale}>
      <label class="label" for="{uid}-name">Name</label>
      <input
        id="{uid}-name"
        class="field mb-3"
        bind:value={one.name}
        required
        autocomplete="off"
        spellcheck="false"
      />
      {#each one.missing as name (name)}
        <label class="label" for="{uid}-{name}">{name}</label>
        <SecretInput
          id="{uid}-{name}"
          class="mb-3"
          label={name}
          required
          bind:value={() => one.values[name] ?? '', (value) => (one.values[name] = value)}
        />
      {/each}
      {#if one.wantsKey && one.missing.length === 0}
        <label class="label" for="{uid}-secret">Bearer key</label>
        <!-- svelte-ignore a11y_autofocus -->
        <SecretInput id="{uid}-secret" class="mb-1" label="bearer key" required autofocus bind:value={one.secret} />
        <p class="hint mb-3">Encrypted immediately and never shown again. Without the scheme Bearer.</p>
      {/if}
      {#if one.parts.length > 0}<TestParts parts={one.parts} />{/if}
      {#if attach.problem}<div class="mb-3"><Problem problem={attach.problem} /></div>{/if}
      {#if attach.result}
        <p role="status" class="text-spruce">
          Attached: <a class="link" href="/servers/{attach.result.name}">{attach.result.name}</a>
        </p>
      {:else}
        <button class="button button-main" disabled={attach.busy || !one.isReady}>
          {attach.busy ? (server.command ? 'Starting …' : 'Connecting …') : 'Test and attach'}<span class="sr-only"
            >{many ? ` ${server.name}` : ''}</span
          >
        </button>
      {/if}
    </fieldset>
  {/if}
</form>

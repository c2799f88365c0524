<script lang="ts">
import { commandLine, type ProgramValue } from '@pindro/contract/light';
import Problem from '../parts/text/Problem.svelte';
import Window from '../parts/text/Window.svelte';
import { api } from '../state/api.js';
import { Action, Resource } from '../state/resource.svelte.js';

interface Props {
  /** The name of the tool server. */
  name: string;
  open: boolean;
}
/** Shows what a program runs on the machine and, on confirmation, allows exactly that. */
let { name, open = $bindable() }: Props = $props();

const permission = new Resource(() => api.programPermission({ name }), ['server']);
const allow = new Action(async () => {
  await api.allowProgram({ name, body: permission.value!.fingerprint });
  open = false;
});
const text = (one: ProgramValue) =>
  typeof one === 'string' ? one : `${one.before ?? ''}(credential ${one.credential})`;
const isChanged = (path: string, sha256: string) =>
  permission.value?.before != null &&
  !permission.value.before.fingerprint.files.some((one) => one.path === path && one.sha256 === sha256);
</script>

<Window
  bind:open
  wide
  title="Allow this program"
  about="It has the same permissions as the service. You allow exactly what is listed here."
>
  {#if permission.problem}<Problem problem={permission.problem} />{/if}
  {#if permission.value}
    {@const { fingerprint, before } = permission.value}
    <dl class="mb-4 grid grid-cols-[auto_1fr] gap-x-6 gap-y-2">
      <dt class="text-soft">Command</dt>
      <dd class="font-mono text-sm wrap-anywhere">{commandLine(fingerprint)}</dd>
      {#if fingerprint.cwd !== undefined}
        <dt class="text-soft">Working directory</dt>
        <dd class="font-mono text-sm wrap-anywhere">{fingerprint.cwd}</dd>
      {/if}
      {#each Object.entries(fingerprint.env) as [variable, value] (variable)}
        <dt class="text-soft">Environment</dt>
        <dd class="font-mono text-sm wrap-anywhere">{variable}={text(value)}</dd>
      {/each}
      {#each fingerprint.files as { path, sha256 } (path)}
        <dt class="text-soft">File</dt>
        <dd class="wrap-anywhere">
          <span class="font-mono text-sm">{path}</span>
          {#if isChanged(path, sha256)}<span class="text-ochre">changed</span>{/if}
          <span class="block font-mono text-xs text-soft">SHA-256 {sha256}</span>
        </dd>
      {/each}
      <dt class="text-soft">Allowed before</dt>
      <dd>{before ? `By ${before.by ?? 'an earlier version'}` : 'No'}</dd>
    </dl>
    {#if allow.problem}<div class="mb-3"><Problem problem={allow.problem} /></div>{/if}
    <button type="button" class="button button-main" disabled={allow.busy} onclick={() => void allow.run()}
      >{allow.busy ? 'Starting …' : 'Allow and start'}</button
    >
  {/if}
</Window>

<script lang="ts">
import Lightbulb from '@lucide/svelte/icons/lightbulb';
import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
import type { RunDetail } from '@pindro/contract/light';

let { finding }: { finding: RunDetail['findings'][number] } = $props();

const failed = $derived(finding.severity === 'failure');
const place = $derived.by(() => {
  const at = finding.place;
  if (at === null) return null;
  if ('flow' in at) {
    const step = /^\/steps\/([^/]+)(.*)$/.exec(at.at);
    return {
      to: `/flows/${at.flow}${step ? `?step=${step[1]}` : ''}`,
      label: step
        ? `step ${step[1]} of flow ${at.flow}${step[2] ? `, at ${step[2].slice(1).replaceAll('/', ' › ')}` : ''}`
        : `flow ${at.flow}`,
    };
  }
  return 'server' in at
    ? { to: `/servers/${at.server}`, label: `tool server ${at.server}` }
    : { to: '/models', label: `model connection ${at.model}` };
});
</script>

<section class="rounded-lg border p-4 {failed ? 'border-rowan/40 bg-rowan-wash' : 'border-ochre/40 bg-ochre-wash'}">
  <h2 class="flex items-start gap-2 {failed ? 'text-rowan' : 'text-ochre'}">
    <TriangleAlert size={20} class="mt-0.5 shrink-0" aria-hidden="true" />{finding.title}
  </h2>
  <p class="mt-1 pl-7">{finding.why}</p>
  <p class="mt-2 flex items-start gap-2">
    <Lightbulb size={18} class="mt-0.5 shrink-0" aria-hidden="true" /><span
      >{finding.fix}{#if place}{' '}Where: <a class="link" href={place.to}>{place.label}</a>.{/if}</span
    >
  </p>
</section>

<script lang="ts">
import type { ExposedTool } from '@pindro/contract/light';
import { HINTS } from './hints.js';
import type { Wording } from './describe-tool.js';

/** Side effects of a tool, derived and corrected. */
let { tool, word }: { tool: ExposedTool; word: Wording } = $props();
const shownHints = $derived(
  tool.annotations.readOnlyHint === true
    ? HINTS.filter(({ key }) => key !== 'destructiveHint' && key !== 'idempotentHint')
    : HINTS,
);
</script>

<fieldset>
  <legend class="label">Side effects</legend>
  <div class="flex flex-wrap gap-x-6 gap-y-2">
    {#each shownHints as hint (hint.key)}
      <label class="flex items-baseline gap-2" title={hint.about}
        ><input
          type="checkbox"
          checked={tool.annotations[hint.key] === true}
          onchange={(event) =>
            void word.run({
              annotations: {
                [hint.key]:
                  event.currentTarget.checked === (tool.worked[hint.key] === true)
                    ? null
                    : event.currentTarget.checked,
              },
            })}
        />{hint.label}{#if tool.annotations[hint.key] !== tool.worked[hint.key]}<span class="text-sm text-ochre"
            >corrected</span
          >{/if}</label
      >
    {/each}
  </div>
  <p class="mt-1 text-sm text-soft">
    Derived from its steps. Clients use this to decide when to ask for confirmation.
  </p>
</fieldset>

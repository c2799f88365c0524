<script lang="ts">
import X from '@lucide/svelte/icons/x';
import { type Notice, notices } from '../../state/notices.svelte.js';

async function act(notice: Notice) {
  notices.close(notice.id);
  await notice.action!.run();
}
</script>

<div class="notices" role="status" aria-live="polite" aria-label="Notifications">
  {#each notices.list as notice (notice.id)}
    <!-- svelte-ignore a11y_no_static_element_interactions -->
    <div
      class="notice {notice.problem ? 'notice-problem' : ''}"
      onmouseenter={() => notices.hold(notice)}
      onmouseleave={() => notices.leave(notice)}
      onfocusin={() => notices.hold(notice)}
      onfocusout={() => notices.leave(notice)}
    >
      <div class="min-w-0">
        <p class="wrap-anywhere">{notice.text}</p>
        {#if notice.problem?.hint}<p class="text-sm">{notice.problem.hint}</p>{/if}
      </div>
      {#if notice.action}
        <button type="button" class="link shrink-0" onclick={() => void act(notice)}>{notice.action.label}</button>
      {/if}
      <button
        type="button"
        class="icon-button"
        aria-label="Close notification"
        onclick={() => notices.close(notice.id)}
      >
        <X size={16} aria-hidden="true" />
      </button>
    </div>
  {/each}
</div>

<script lang="ts">
import SendHorizontal from '@lucide/svelte/icons/send-horizontal';
import Square from '@lucide/svelte/icons/square';

interface Props {
  busy: boolean;
  onSend: (message: string) => void;
  onStop: () => void;
}
/** Where a message is written; it grows with what is written. */
let { busy, onSend, onStop }: Props = $props();
const uid = $props.id();
let message = $state('');

function send(event?: Event) {
  event?.preventDefault();
  const text = message.trim();
  if (text === '' || busy) return;
  message = '';
  onSend(text);
}
</script>

<form class="composer" onsubmit={send}>
  <label class="sr-only" for="{uid}-message">Message</label>
  <textarea
    id="{uid}-message"
    class="field composer-field"
    rows="1"
    bind:value={message}
    placeholder="Your message; Shift Enter for a new line"
    onkeydown={(event) => {
      if (event.key === 'Enter' && !event.shiftKey && !event.isComposing) send(event);
    }}></textarea>
  {#if busy}
    <button type="button" class="button" onclick={onStop}><Square size={15} aria-hidden="true" /> Stop</button>
  {:else}
    <button class="button button-main" disabled={message.trim() === ''}>
      <SendHorizontal size={16} aria-hidden="true" /> Send
    </button>
  {/if}
</form>

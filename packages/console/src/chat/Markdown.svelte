<script lang="ts">
import DOMPurify from 'dompurify';
import { Marked } from 'marked';

/** Markdown that somebody else wrote: text and structure alone, nothing that runs, loads or reaches out. */
let { text }: { text: string } = $props();
const marked = new Marked({ gfm: true, breaks: true, async: false });
const FORBIDDEN = [
  'style',
  'form',
  'input',
  'button',
  'textarea',
  'select',
  'iframe',
  'img',
  'video',
  'audio',
  'svg',
];
const html = $derived(
  DOMPurify.sanitize(marked.parse(text) as string, {
    FORBID_TAGS: FORBIDDEN,
    FORBID_ATTR: ['style', 'class', 'id'],
    USE_PROFILES: { html: true },
  }),
);

/** Links lead out of the console, and tell nobody where from. */
function lead(node: HTMLElement) {
  $effect(() => {
    void html;
    for (const link of node.querySelectorAll('a'))
      Object.assign(link, { target: '_blank', rel: 'noopener noreferrer' });
  });
}
</script>

<div class="markdown" use:lead>{@html html}</div>

import { anchorOf } from '@pindro/contract/light';
import DOMPurify from 'dompurify';
import { Marked } from 'marked';

export interface Heading {
  title: string;
  anchor: string;
}

const CODE = /^<code>([a-z][a-z0-9_]*)<\/code>/;

/**
 * Renders a page of the documentation. Headings and rows that start with a code have anchors; links between pages lead to
 * their addresses in the console.
 *
 * @param text Markdown of a page of this repository
 * @returns HTML, and the headings of the second level
 */
export function render(text: string): { html: string; headings: Heading[] } {
  const headings: Heading[] = [];
  const marked = new Marked({ gfm: true, async: false });
  marked.use({
    renderer: {
      heading({ tokens, depth, text: raw }) {
        if (depth === 1) return '';
        const anchor = anchorOf(raw);
        if (depth === 2) headings.push({ title: raw.replaceAll('`', ''), anchor });
        return `<h${depth} id="${anchor}" tabindex="-1">${this.parser.parseInline(tokens)}</h${depth}>`;
      },
      link({ href, tokens }) {
        const words = this.parser.parseInline(tokens);
        const page = /^([\w-]+)\.md(#[\w-]+)?$/.exec(href);
        if (page) return `<a href="/docs/${page[1]}${page[2] ?? ''}">${words}</a>`;
        return href.startsWith('#') || href.startsWith('/api/') ? `<a href="${href}">${words}</a>` : words;
      },
      tablerow({ text: cells }) {
        const code = CODE.exec(cells.replace(/^<td>/, ''))?.[1];
        return `<tr${code ? ` id="${code}" tabindex="-1"` : ''}>${cells}</tr>`;
      },
    },
  });
  const html = DOMPurify.sanitize(marked.parse(text) as string, {
    USE_PROFILES: { html: true },
    ADD_ATTR: ['tabindex'],
  });
  return { html, headings };
}

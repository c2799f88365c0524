import helmet from 'helmet';

/** Pages that strangers see: plain HTML that works without any script. */
export const publicPage = helmet({
  contentSecurityPolicy: {
    useDefaults: false,
    directives: {
      defaultSrc: ["'none'"],
      styleSrc: ["'self'"],
      scriptSrc: ["'self'"],
      connectSrc: ["'self'"],
      baseUri: ["'none'"],
      formAction: ["'self'"],
      frameAncestors: ["'none'"],
    },
  },
  strictTransportSecurity: false,
  // Without a referrer a browser sends a form with the origin "null", which the gate would take for a stranger's page.
  referrerPolicy: { policy: 'same-origin' },
});

const ENTITIES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };
export const escapeHtml = (text: string) => text.replaceAll(/[&<>"']/g, (letter) => ENTITIES[letter]!);

/** A text with its blank lines as paragraphs. */
export const paragraphs = (text: string) =>
  text
    .split(/\n\s*\n/)
    .filter((part) => part.trim() !== '')
    .map((part) => `<p>${escapeHtml(part.trim()).replaceAll('\n', '<br>')}</p>`)
    .join('');

export function htmlPage(title: string, main: string, script = ''): string {
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="robots" content="noindex">
<title>${escapeHtml(title)}</title>
<link rel="stylesheet" href="/public/page.css">
${script ? `<script src="${script}" defer></script>` : ''}
</head>
<body><main><h1>${escapeHtml(title)}</h1>${main}</main></body>
</html>
`;
}

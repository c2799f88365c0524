/** How a key is sent: its kind, and the name of its header or parameter. */
export interface CredentialForm {
  kind: string;
  header: string | null;
}

/** Returns how the other side expects the key, according to its response; null if unknown. */
export function wantedForm(words: string): CredentialForm | null {
  const named =
    /\bheader(?:\s+named)?\s+["'`“]?([a-z][\w-]+)/i.exec(words)?.[1] ?? /\b(x-[a-z][\w-]*)/i.exec(words)?.[1];
  if (named && /-|key|token/i.test(named) && !/^authorization$/i.test(named)) return { kind: 'header', header: named };
  if (/\bbearer\b/i.test(words)) return { kind: 'bearer', header: null };
  if (/\bbasic\b/i.test(words)) return { kind: 'basic', header: null };
  return null;
}

export const isSameForm = (one: CredentialForm, other: CredentialForm): boolean =>
  one.kind === other.kind && (one.header ?? '').toLowerCase() === (other.header ?? '').toLowerCase();

export function formWords({ kind, header }: CredentialForm): string {
  if (kind === 'header') return `in the header ${header}`;
  if (kind === 'query') return `as the parameter ${header}`;
  return kind === 'basic'
    ? 'as "Authorization: Basic"'
    : kind === 'bearer'
      ? 'as "Authorization: Bearer"'
      : `as ${kind}`;
}

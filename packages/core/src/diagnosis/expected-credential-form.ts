/** How a key goes along: its kind, and the name of its header or parameter where the kind has one. */
export interface CredentialForm {
  kind: string;
  header: string | null;
}

/** How a key is to go along, as the other side describes it in what it answers; null where it does not say. */
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

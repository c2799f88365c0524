import { headSchema, PindroError, RECORD_VERSION, type RunHead } from '@pindro/core';

/** A run's head as text, with the version of its form. */
export const writeHead = (head: RunHead): string => `{"version":${RECORD_VERSION},${JSON.stringify(head).slice(1)}`;

/** A run's head out of its text. Heads from before versions were kept are of the first. @throws record_unreadable */
export function readHead(text: string): RunHead {
  const { version = 1, ...head } = JSON.parse(text) as RunHead & { version?: number };
  const unreadable = (why: string) => new PindroError('record_unreadable', { run: String(head.id), why });
  if (version > RECORD_VERSION) throw unreadable(`its format version is ${version}`);
  const parsed = headSchema.safeParse(head);
  if (!parsed.success) throw unreadable(`its head has an invalid "${parsed.error.issues[0]!.path.join('/')}"`);
  return parsed.data;
}

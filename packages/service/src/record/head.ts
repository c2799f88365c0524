import { PindroError, RECORD_VERSION, type RunHead } from '@pindro/core';

/** A run's head as text, with the version of its form. */
export const writeHead = (head: RunHead): string => `{"version":${RECORD_VERSION},${JSON.stringify(head).slice(1)}`;

/** A run's head out of its text. Heads from before versions were kept are of the first. @throws internal for a newer one */
export function readHead(text: string): RunHead {
  const { version = 1, ...head } = JSON.parse(text) as RunHead & { version?: number };
  if (version > RECORD_VERSION) throw new PindroError('internal', { reference: `record version ${version}` });
  return head;
}

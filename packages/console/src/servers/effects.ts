/** What a tool's annotations say of it, and what follows from that here. */
export interface Effect {
  says: string;
  follows: string;
}

export function effectsOf(annotations: Readonly<Record<string, unknown>> | undefined): Effect[] {
  const { readOnlyHint, destructiveHint, idempotentHint, openWorldHint } = annotations ?? {};
  return [
    readOnlyHint === true && {
      says: 'read-only',
      follows: 'Pindro retries it automatically after a lost connection, and may cache its results.',
    },
    readOnlyHint === false && {
      says: 'changes data',
      follows: 'Pindro never retries it automatically if the outcome is unknown.',
    },
    destructiveHint === true && {
      says: 'destructive',
      follows: 'Clients of an endpoint see this, and may ask for confirmation.',
    },
    idempotentHint === true && {
      says: 'idempotent',
      follows: 'Pindro retries it automatically after a lost connection.',
    },
    openWorldHint === true && {
      says: 'open world',
      follows: 'Its results may come from anybody. Agents treat them as data, never as instructions.',
    },
  ].filter((one) => one !== false);
}
export const UNSAID = 'The tool declares no side effects. Pindro assumes that it changes data.';

/** What a tool's annotations say of it, and what follows from that here. */
export interface Effect {
  says: string;
  follows: string;
}

export function effectsOf(annotations: Readonly<Record<string, unknown>> | undefined): Effect[] {
  const { readOnlyHint, destructiveHint, idempotentHint, openWorldHint } = annotations ?? {};
  return [
    readOnlyHint === true && {
      says: 'only reads',
      follows:
        'It is called once more by itself where the connection was lost, and its answers may be kept for a while.',
    },
    readOnlyHint === false && {
      says: 'changes something',
      follows: 'It is never repeated by itself where nobody knows whether it happened.',
    },
    destructiveHint === true && {
      says: 'may destroy or overwrite',
      follows: 'Clients of an endpoint are told so, and may ask before they call it.',
    },
    idempotentHint === true && {
      says: 'the same call twice is as once',
      follows: 'It is called once more by itself where the connection was lost.',
    },
    openWorldHint === true && {
      says: 'reaches beyond its own data',
      follows: 'What it answers may come from anybody, and is data to an agent, never orders.',
    },
  ].filter((one) => one !== false);
}
export const UNSAID = 'It says nothing of its effects, and is taken to change something.';

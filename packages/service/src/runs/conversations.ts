import { isObject } from '@pindro/core';
import type { RunRecord } from '../record/reading/run-store.js';

export interface Conversation {
  session: string;
  begins: string;
  caller: string;
  turns: number;
  lastAt: string;
}

/** So much of a first message names its conversation, in characters. */
const NAME = 120;

/** The conversations that runs belong to, the latest first. @param runs the newest first */
export function conversationsIn(runs: readonly RunRecord[]): Conversation[] {
  const conversations = new Map<string, Conversation>();
  for (const { head } of runs) {
    const message = isObject(head.input) && typeof head.input.message === 'string' ? head.input.message : null;
    if (head.session === null || message === null) continue;
    const known = conversations.get(head.session);
    const begins = message.slice(0, NAME);
    if (known) Object.assign(known, { begins, turns: known.turns + 1 });
    else
      conversations.set(head.session, {
        ...{ session: head.session, begins, caller: head.caller.id, turns: 1 },
        lastAt: new Date(head.startedAt).toISOString(),
      });
  }
  return [...conversations.values()];
}

import { chatCompletions } from './chat-completions.js';
import type { Dialect } from './dialect.js';

/** Every dialect; a new one is one file and one line here. */
const DIALECTS: Dialect[] = [chatCompletions];

export const DIALECT_NAMES = DIALECTS.map((dialect) => dialect.name);

export function dialectNamed(name: string): Dialect | undefined {
  return DIALECTS.find((dialect) => dialect.name === name);
}

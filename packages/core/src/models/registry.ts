import type { Dialect } from './dialect.js';
import { chatCompletions } from './dialects/chat-completions.js';
import { generateContent } from './dialects/generate-content.js';
import { messages } from './dialects/messages.js';

/** Every dialect; a new one is one file and one line here. */
const DIALECTS: Dialect[] = [chatCompletions, messages, generateContent];

export const DIALECT_NAMES = DIALECTS.map((dialect) => dialect.name);

/**
 * Finds the dialect of a model connection.
 * @param name as in the connection, such as `chat-completions`
 * @returns the dialect, or undefined if there is none of that name
 */
export function dialectNamed(name: string): Dialect | undefined {
  return DIALECTS.find((dialect) => dialect.name === name);
}

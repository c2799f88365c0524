import type { AgentConfig } from '../config.js';
import { askUser } from './ask-user.js';
import type { BuiltIn } from './built-in.js';
import { calculate } from './calculate.js';
import { clock } from './clock.js';
import { fetchPage } from './fetch-page.js';
import { notes, notesKey } from './notes.js';

/** The tools that were ticked for an agent. @param memory the key of its memory, or null */
export function ticked({ built_in: own, memory: kept }: AgentConfig, memory: string | null): BuiltIn[] {
  return [
    ...(own?.clock ? [clock] : []),
    ...(own?.calculate ? [calculate] : []),
    ...(own?.fetch_page && own.fetch_page.length > 0 ? [fetchPage(own.fetch_page)] : []),
    ...(own?.ask_user ? [askUser] : []),
    ...(kept?.notes && memory !== null ? notes(notesKey(memory)) : []),
  ];
}

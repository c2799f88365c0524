import { asJson, isObject, type Json } from '../../json/json.js';
import type { Turn } from '../../models/dialect.js';
import type { Caller } from '../../trace/journal/head.js';
import type { Stage } from '../../trace/spans/states.js';
import type { AgentConfig } from '../config.js';

/** Under which key an agent's memory is kept: by stage, flow, step and caller, unless it says it is shared; without a key of its own by the conversation. */
export function memoryKey(
  config: NonNullable<AgentConfig['memory']>,
  where: { stage: Stage; flow: string; path: string; caller: Caller; session: string },
): string {
  const prefix = config.shared ? [where.stage, 'shared'] : [where.stage, where.flow, where.path, where.caller.id];
  return JSON.stringify([...prefix, ...(config.key ?? [where.session])]);
}

/** Parts of a memory in addition to its turns. */
export const MEMORY_PARTS = ['notes', 'abstract', 'kept'] as const;
export type MemoryPart = (typeof MEMORY_PARTS)[number];

/**
 * Returns the key of a part of a memory. Keys of builders contain only texts and numbers, so it cannot collide with
 * one.
 * @param memory key of the memory
 * @param part of the memory
 * @returns the key of the part
 */
export const partOf = (memory: string, part: MemoryPart): string =>
  JSON.stringify([...(JSON.parse(memory) as Json[]), { part }]);

/** Owner and part of a memory. */
export interface MemoryPlace {
  stage: string;
  /** Null where it is shared. */
  flow: string | null;
  step: string | null;
  caller: string | null;
  /** What tells one conversation from another. */
  key: (string | number)[];
  part: 'turns' | MemoryPart;
}

/**
 * Parses the key of a memory.
 * @param key of a memory
 * @returns stage, flow, step and caller, as far as the key names them
 */
export function placeOf(key: string): MemoryPlace {
  const parts = JSON.parse(key) as Json[];
  const last = parts.at(-1);
  const part = isObject(last) ? (last.part as MemoryPart) : 'turns';
  const [stage, ...rest] = isObject(last) ? parts.slice(0, -1) : parts;
  const isShared = rest[0] === 'shared';
  const [flow, step, caller] = isShared ? [null, null, null] : rest.map(String);
  const own = (isShared ? rest.slice(1) : rest.slice(3)) as (string | number)[];
  return { stage: String(stage), flow: flow ?? null, step: step ?? null, caller: caller ?? null, key: own, part };
}

export const asTurns = (kept: Json[]) => kept as unknown as Turn[];
export const asKept = (turns: Turn[]) => asJson(turns);

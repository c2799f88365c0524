import type { Json } from '../json.js';
import type { Turn } from '../models/dialect.js';
import type { Caller } from '../trace/head.js';
import type { Stage } from '../trace/states.js';
import type { AgentConfig } from './config.js';

/** Under which key an agent's memory is kept: by stage, flow, step and caller, unless it says it is shared. */
export function memoryKey(
  config: NonNullable<AgentConfig['memory']>,
  where: { stage: Stage; flow: string; path: string; caller: Caller },
): string {
  const prefix = config.shared ? [where.stage, 'shared'] : [where.stage, where.flow, where.path, where.caller.id];
  return JSON.stringify([...prefix, ...config.key]);
}

export const asTurns = (kept: Json[]) => kept as unknown as Turn[];
export const asKept = (turns: Turn[]) => turns as unknown as Json[];

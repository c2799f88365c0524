import { agent } from './agent.js';
import { choose } from './choose.js';
import { flow } from './flow.js';
import { http } from './http.js';
import type { StepKind } from './kind.js';
import { stop } from './stop.js';
import { table } from './table.js';
import { text } from './text.js';
import { tool } from './tool.js';

/** Every step kind; a new one is one file and one line here. */
const KINDS: readonly StepKind[] = [http, table, text, choose, flow, tool, agent, stop];

const byName = new Map(KINDS.map((kind) => [kind.name, kind]));
if (byName.size !== KINDS.length) throw new Error('two step kinds have the same name');

export const KIND_NAMES = KINDS.map((kind) => kind.name);
export const stepKinds = (): readonly StepKind[] => KINDS;

export function stepKind(name: string): StepKind | undefined {
  return byName.get(name);
}

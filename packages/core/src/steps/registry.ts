import { agent } from './agent.js';
import { answer } from './answer.js';
import { approve } from './approve.js';
import { choose } from './choose.js';
import { each } from './each.js';
import { flow } from './flow.js';
import { http } from './http.js';
import type { StepKind } from './kind.js';
import { mail } from './mail.js';
import { model } from './model.js';
import { script } from './script.js';
import { shape } from './shape.js';
import { stop } from './stop.js';
import { table } from './table.js';
import { text } from './text.js';
import { tool } from './tool.js';
import { wait } from './wait.js';

/** Every step kind, in the order people are offered them; a new one is one file and one line here. */
const KINDS: readonly StepKind[] = [
  http,
  table,
  mail,
  text,
  shape,
  script,
  choose,
  each,
  flow,
  tool,
  model,
  agent,
  approve,
  wait,
  answer,
  stop,
];

const byName = new Map(KINDS.map((kind) => [kind.name, kind]));
if (byName.size !== KINDS.length) throw new Error('two step kinds have the same name');

export const KIND_NAMES = KINDS.map((kind) => kind.name);
/**
 * Lists the kinds of steps.
 * @returns kinds in the order of the registry
 */
export const stepKinds = (): readonly StepKind[] => KINDS;

/**
 * Finds a kind of step.
 * @param name as in a document
 * @returns the kind, or undefined if there is none of that name
 */
export function stepKind(name: string): StepKind | undefined {
  return byName.get(name);
}

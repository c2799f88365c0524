import { isObject } from '../json/json.js';
import type { ToolDescription } from '../ports/ports.js';
import { type Effects, NO_EFFECT, type Uses } from '../steps/kind.js';
import { stepKind } from '../steps/registry.js';
import { allSteps } from './all-steps.js';
import type { FlowDocument } from './document.js';

/** Effects assumed for unknown work. */
export const ANY_EFFECT: Effects = {
  writes: true,
  destroys: true,
  repeatable: false,
  outside: true,
  waits: false,
  assumed: true,
};

/** Returns the effects of other work; unknown work is assumed to have all. */
export type EffectsOfUse = (use: Uses) => Effects;

/**
 * Combines the effects of several pieces of work.
 * @param effects of each piece; what is omitted is {@link NO_EFFECT}
 * @returns the effects of doing all of them
 */
export const allEffects = (effects: readonly Partial<Effects>[]): Effects =>
  effects.reduce<Effects>(
    (all, one) => ({
      writes: all.writes || (one.writes ?? false),
      destroys: all.destroys || (one.destroys ?? false),
      repeatable: all.repeatable && (one.repeatable ?? true),
      outside: all.outside || (one.outside ?? false),
      waits: all.waits || (one.waits ?? false),
      assumed: isAssumed([all, one]),
    }),
    NO_EFFECT,
  );

/** Whether something may write, and nothing is known to. */
const isAssumed = (effects: readonly Partial<Effects>[]) =>
  effects.some((one) => one.writes && one.assumed) && !effects.some((one) => one.writes && !one.assumed);

/**
 * Returns the effects of a flow: everything that any of its steps may do.
 * @param document of the flow
 * @param ofUse returns the effects of another flow, or of tools, that it uses
 * @returns the combined effects
 */
export function effectsOf(document: Pick<FlowDocument, 'steps'>, ofUse: EffectsOfUse): Effects {
  const effects: Partial<Effects>[] = [];
  for (const { step } of allSteps(document.steps)) {
    if (step.off) continue;
    const kind = stepKind(step.kind);
    const config = step.with ?? {};
    effects.push(kind?.effects?.(config) ?? NO_EFFECT);
    for (const use of kind?.uses?.(config) ?? [])
      effects.push(JSON.stringify(use).includes('${') ? ANY_EFFECT : ofUse(use));
  }
  return allEffects(effects);
}

/**
 * Returns the effects of a server's tool from its annotations (MCP 2025-11-25, ToolAnnotations), with the defaults
 * of the standard.
 * @param tool description from its server
 * @returns its effects; what the server does not say is assumed
 */
export function effectsOfTool({ annotations }: Pick<ToolDescription, 'annotations'>): Effects {
  const said = isObject(annotations) ? annotations : {};
  const reads = said.readOnlyHint === true;
  return {
    writes: !reads,
    destroys: !reads && said.destructiveHint !== false,
    repeatable: reads || said.idempotentHint === true,
    outside: said.openWorldHint !== false,
    waits: false,
    assumed: typeof said.readOnlyHint !== 'boolean',
  };
}

/**
 * Returns effects as MCP tool annotations. Two of them do not apply to read-only tools.
 * @param effects of a tool or flow
 * @returns MCP ToolAnnotations: `readOnlyHint`, `openWorldHint`, and `destructiveHint` and `idempotentHint` where they
 *   apply
 */
export function annotationsOf(effects: Effects): Record<string, boolean> {
  return {
    readOnlyHint: !effects.writes,
    ...(effects.writes && { destructiveHint: effects.destroys, idempotentHint: effects.repeatable }),
    openWorldHint: effects.outside,
  };
}

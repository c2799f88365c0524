import {
  asJson,
  didYouMean,
  type FlowDocument,
  isObject,
  type JsonObject,
  mistakesOf,
  PindroError,
  pointerParts,
  type ToolboxEntry,
  toolboxEntry,
  valueAt,
} from '@pindro/core';

/**
 * The step of a flow that has a toolbox, in a copy of the document that may be changed.
 * @param at JSON Pointer of the step @throws not_found, request_invalid
 */
export function stepWithToolbox(
  flow: FlowDocument,
  at: string,
): { document: JsonObject; config: { toolbox: ToolboxEntry[]; model?: unknown } } {
  const document = asJson(structuredClone(flow));
  const step = valueAt(document, pointerParts(at));
  const config = isObject(step) && isObject(step.with) ? step.with : null;
  if (!config || !Array.isArray(config.toolbox))
    throw new PindroError('not_found', {
      what: 'step with a toolbox',
      name: at,
      suggestion: didYouMean(
        at,
        Object.keys((document.steps ?? {}) as object).map((name) => `/steps/${name}`),
      ),
    });
  const mistake = config.toolbox.flatMap((row, index) => {
    const parsed = toolboxEntry.safeParse(row);
    return parsed.success ? [] : mistakesOf(parsed.error, row, [...pointerParts(at), 'with', 'toolbox', index]);
  })[0];
  if (mistake) throw new PindroError('request_invalid', { why: mistake.message }, { at: mistake.at });
  return { document, config: config as unknown as { toolbox: ToolboxEntry[] } };
}

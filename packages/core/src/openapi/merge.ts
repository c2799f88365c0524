import { compareFlows, type FlowChange } from '../advice/compare.js';
import type { FlowDocument } from '../flow/document.js';
import { isObject, type Json, type JsonObject, pointer } from '../json/json.js';

/**
 * Merges the changes of an API document into a flow that was created from it. Compares three versions: the flow
 * created before, the flow that would be created now, and the flow as edited. Places that the builder edited stay.
 * @param made flow created from the old document
 * @param now flow created from the new document
 * @param edited flow with the builder's edits
 * @returns the merged flow, what the document changed, and where the builder's edit was preserved
 */
export function mergeUpdate(
  made: FlowDocument,
  now: FlowDocument,
  edited: FlowDocument,
): { document: FlowDocument; changes: FlowChange[]; conflicts: string[] } {
  const conflicts: string[] = [];
  const document = merge(made as Json, now as Json, edited as Json, [], conflicts) as unknown as FlowDocument;
  const { changes } = compareFlows({ document: made, text: '' }, { document: now, text: '' });
  return { document, changes, conflicts };
}

const same = (a: Json | undefined, b: Json | undefined) => JSON.stringify(a) === JSON.stringify(b);

function merge(
  made: Json | undefined,
  now: Json | undefined,
  edited: Json | undefined,
  at: string[],
  conflicts: string[],
): Json | undefined {
  if (same(made, now) || same(now, edited)) return edited;
  if (same(made, edited)) return now;
  if (isObject(made) && isObject(now) && isObject(edited)) {
    const names = [...new Set([...Object.keys(edited), ...Object.keys(now)])];
    const merged: JsonObject = {};
    for (const name of names) {
      const value = merge(made[name], now[name], edited[name], [...at, name], conflicts);
      if (value !== undefined) merged[name] = value;
    }
    return merged;
  }
  // Both have changed the same place: the builder's stays, and it is said.
  conflicts.push(pointer(at));
  return edited;
}

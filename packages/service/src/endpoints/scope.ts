import type { Access } from '../keys/store.js';
import type { ServedTool } from './served.js';

const kept = new WeakMap<readonly ServedTool[], Map<string, readonly ServedTool[]>>();

/** The tools of an endpoint that a key may see. The same list comes out for the same key, as long as nothing changes. */
export function scopedTools(
  tools: readonly ServedTool[],
  access: Pick<Access, 'tools' | 'readOnly' | 'propose'>,
): readonly ServedTool[] {
  if (access.tools === null && !access.readOnly && !tools[0]?.builtIn) return tools;
  const scope = JSON.stringify([access.tools, access.readOnly, access.propose]);
  let byScope = kept.get(tools);
  if (!byScope) kept.set(tools, (byScope = new Map()));
  let own = byScope.get(scope);
  if (!own) {
    own = tools.filter(
      (tool) =>
        (access.tools === null || access.tools.includes(tool.name)) &&
        (!access.readOnly || tool.annotations.readOnlyHint === true) &&
        (access.propose || !tool.builtIn?.wider),
    );
    byScope.set(scope, own);
  }
  return own;
}

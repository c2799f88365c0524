/** Names of tools as a model sees them. */
export const TOOL_NAME = /^[a-z][a-z0-9_]{0,63}$/;

/** A name made fit for {@link TOOL_NAME}: a hyphen becomes `_`, and so does whatever else does not belong. */
export function toolName(name: string): string {
  const fit = name
    .replace(/([a-z0-9])([A-Z])/g, '$1_$2')
    .toLowerCase()
    .replace(/[^a-z0-9_]+/g, '_')
    .replace(/^[^a-z]+/, '');
  return (fit || 'tool').slice(0, 64);
}

/**
 * Gives every tool a name of its own: those whose names collide are all called `source__name`.
 * @param tools name as proposed, and where it comes from
 */
export function distinctNames(tools: readonly { name: string; source: string }[]): string[] {
  const times = new Map<string, number>();
  for (const { name } of tools) times.set(toolName(name), (times.get(toolName(name)) ?? 0) + 1);
  const taken = new Set<string>();
  return tools.map(({ name, source }) => {
    const own = toolName(name);
    const full = times.get(own)! > 1 ? `${toolName(source)}__${own}`.slice(0, 64) : own;
    let free = full;
    for (let turn = 2; taken.has(free); turn++) free = `${full.slice(0, 60)}_${turn}`;
    taken.add(free);
    return free;
  });
}

/** Names of tools for models. */
export const TOOL_NAME = /^[a-z][a-z0-9_]{0,63}$/;

/**
 * Converts a name to match {@link TOOL_NAME}. Other characters become `_`.
 * @param name proposed name
 * @returns a valid name, at most 64 characters
 */
export function toolName(name: string): string {
  const fit = name
    .replace(/([a-z0-9])([A-Z])/g, '$1_$2')
    .toLowerCase()
    .replace(/[^a-z0-9_]+/g, '_')
    .replace(/^[^a-z]+/, '');
  return (fit || 'tool').slice(0, 64);
}

/**
 * Makes the names of tools unique. The first tool of a name keeps it, so that new tools rename no existing ones;
 * later ones become `source__name`.
 * @param tools proposed names with their sources; a fixed name was chosen by a person and has priority
 * @returns names in the order of the tools
 */
export function distinctNames(tools: readonly { name: string; source: string; fixed?: boolean }[]): string[] {
  const taken = new Set(tools.filter(({ fixed }) => fixed).map(({ name }) => toolName(name)));
  const given = new Set<string>();
  return tools.map(({ name, source, fixed }) => {
    const own = toolName(name);
    const isFree = fixed ? !given.has(own) : !taken.has(own);
    const full = isFree ? own : `${toolName(source)}__${own}`.slice(0, 64);
    let free = full;
    for (let turn = 2; !isFree && taken.has(free); turn++) free = `${full.slice(0, 60)}_${turn}`;
    taken.add(free);
    given.add(free);
    return free;
  });
}

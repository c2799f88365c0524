/** Names of tools as a model sees them. */
export const TOOL_NAME = /^[a-z][a-z0-9_]{0,63}$/;

/**
 * A name made fit for {@link TOOL_NAME}: a hyphen becomes `_`, and so does whatever else does not belong.
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
 * Gives every tool a name of its own: the first to have a name keeps it, so that nothing in use is called otherwise
 * because something came along; those that come later are called `source__name`.
 * @param tools name as proposed, and where it comes from; a fixed one was given by somebody, and goes first
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

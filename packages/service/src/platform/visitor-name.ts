const VISITOR = /^(chat|form|hook) \S+ #[\w-]{10}$/;

/** The name of a visitor as a caller. @param shown tells this visitor from others: ten letters, digits, - or _ */
export const visitorName = (entry: { kind: string; path: string }, shown: string): string =>
  `${entry.kind} ${entry.path} #${shown}`;

/** The entry point in the name of a caller, without the visitor: metrics count by it, so that their names stay few. */
export const withoutVisitor = (caller: string): string =>
  VISITOR.test(caller) ? caller.slice(0, caller.lastIndexOf(' #')) : caller;

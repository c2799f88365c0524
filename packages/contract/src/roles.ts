/** What people of the console may do: each may do what those before may. */
export const ROLES = ['viewer', 'operator', 'builder', 'owner'] as const;
export type Role = (typeof ROLES)[number];

/** Descriptions of the roles. */
export const ROLE_WORDS: Record<Role, string> = {
  viewer: 'views everything and changes nothing',
  operator: 'also runs flows, decides approvals, chats with agents, tests and closes connections',
  builder: 'also creates flows, endpoints, servers, models, tables, credentials and keys',
  owner: 'also manages people, issues API keys, and allows programs to run',
};

/** The least role of whoever has programs of this machine run as tool servers. */
export const RUNS_PROGRAMS: Role = 'owner';

/**
 * Tells whether a role includes another one.
 * @param role that somebody has
 * @param needed role that an operation requires
 * @returns true if it is at least as high
 */
export const mayUse = (role: Role, needed: Role): boolean => ROLES.indexOf(role) >= ROLES.indexOf(needed);

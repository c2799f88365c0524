/** Roles of people, lowest first. Each includes those before it. */
export const ROLES = ['viewer', 'operator', 'builder', 'owner'] as const;
export type Role = (typeof ROLES)[number];

/** Descriptions of the roles. */
export const ROLE_WORDS: Record<Role, string> = {
  viewer: 'views everything and changes nothing',
  operator: 'also runs flows, decides approvals, chats with agents, tests and closes connections',
  builder: 'also creates flows, endpoints, servers, models, tables, credentials and keys',
  owner: 'also manages people, issues API keys, and allows programs to run',
};

/** Minimum role for running programs on this machine as tool servers. */
export const RUNS_PROGRAMS: Role = 'owner';

/**
 * Tells whether a role includes another one.
 * @param role of the person
 * @param needed role that an operation requires
 * @returns true if it is at least as high
 */
export const mayUse = (role: Role, needed: Role): boolean => ROLES.indexOf(role) >= ROLES.indexOf(needed);

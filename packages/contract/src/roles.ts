/** What people of the console may do: each may do what those before may. */
export const ROLES = ['viewer', 'operator', 'builder', 'owner'] as const;
export type Role = (typeof ROLES)[number];

/** What each role is for, in words. */
export const ROLE_WORDS: Record<Role, string> = {
  viewer: 'looks at everything and changes nothing',
  operator: 'also runs flows, answers approvals, talks to agents, tests and ends connections',
  builder: 'also builds flows, endpoints, servers, models, tables, credentials and keys',
  owner: 'also says who may use the console, and makes keys for the API',
};

export const mayUse = (role: Role, needed: Role): boolean => ROLES.indexOf(role) >= ROLES.indexOf(needed);

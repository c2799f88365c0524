import type { Route } from './routes.js';

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

/** Routes that change nothing although they are no GET. */
const LOOKS = ['checkFlow', 'previewFlow', 'evaluate', 'compareWorkspace', 'signOut', 'changePassword'];
const RUNS = [
  'runFlow',
  'watchFlow',
  'tryOut',
  'stepOn',
  'runAgain',
  'cancelRun',
  'decide',
  'keepSample',
  'removeSample',
  'chatServer',
  'callServerTool',
  'refreshServer',
  'testModel',
  'testEndpoint',
  'chooseTool',
  'endSession',
];
const OWNS = ['signInLink', 'listPeople', 'addPerson', 'changePerson', 'removePerson'];

/** The least role that may use a route. */
export function roleFor(name: string, { method }: Pick<Route, 'method'>): Role {
  if (OWNS.includes(name)) return 'owner';
  if (method === 'GET' || LOOKS.includes(name)) return 'viewer';
  return RUNS.includes(name) ? 'operator' : 'builder';
}

export const mayUse = (role: Role, needed: Role): boolean => ROLES.indexOf(role) >= ROLES.indexOf(needed);

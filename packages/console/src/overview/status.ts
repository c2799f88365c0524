import type { api } from '../state/api.js';

/** How the service is, as the overview shows it. */
export type Status = Awaited<ReturnType<typeof api.status>>;
export type ActivityOfHours = Awaited<ReturnType<typeof api.activity>>;

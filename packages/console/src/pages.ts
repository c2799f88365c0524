import type { Component } from 'svelte';

type Page = Component<{ name: string }>;
interface Place {
  at: RegExp;
  load(): Promise<{ default: unknown }>;
}

/** Every page by its address; a new one is one file and one line. Each is loaded when it is first opened. */
const PLACES: Place[] = [
  { at: /^\/$/, load: () => import('./pages/Overview.svelte') },
  { at: /^\/flows$/, load: () => import('./pages/Flows.svelte') },
  { at: /^\/flows\/([^/]+)$/, load: () => import('./pages/FlowPage.svelte') },
  { at: /^\/flows\/([^/]+)\/chat$/, load: () => import('./pages/Chat.svelte') },
  { at: /^\/chat$/, load: () => import('./pages/Chats.svelte') },
  { at: /^\/approvals$/, load: () => import('./pages/Approvals.svelte') },
  { at: /^\/memory$/, load: () => import('./pages/Memories.svelte') },
  { at: /^\/endpoints$/, load: () => import('./pages/Endpoints.svelte') },
  { at: /^\/endpoints\/workshop$/, load: () => import('./pages/Workshop.svelte') },
  { at: /^\/endpoints\/([^/]+)$/, load: () => import('./pages/EndpointPage.svelte') },
  { at: /^\/servers$/, load: () => import('./pages/Servers.svelte') },
  { at: /^\/servers\/([^/]+)$/, load: () => import('./pages/ServerPage.svelte') },
  { at: /^\/models$/, load: () => import('./pages/Models.svelte') },
  { at: /^\/credentials$/, load: () => import('./pages/Credentials.svelte') },
  { at: /^\/keys$/, load: () => import('./pages/KeysPage.svelte') },
  { at: /^\/tables$/, load: () => import('./pages/Tables.svelte') },
  { at: /^\/tables\/([^/]+)$/, load: () => import('./pages/TablePage.svelte') },
  { at: /^\/mailbox$/, load: () => import('./pages/Mailbox.svelte') },
  { at: /^\/people$/, load: () => import('./pages/People.svelte') },
  { at: /^\/workspace$/, load: () => import('./pages/WorkspacePage.svelte') },
  { at: /^\/(?:metrics|figures)$/, load: () => import('./pages/Metrics.svelte') },
  { at: /^\/saved\/([^/]+)$/, load: () => import('./pages/SavedPage.svelte') },
  { at: /^\/docs$/, load: () => import('./pages/Docs.svelte') },
  { at: /^\/docs\/([^/]+)$/, load: () => import('./pages/DocPage.svelte') },
  { at: /^\/problems$/, load: () => import('./pages/Problems.svelte') },
  { at: /^\/problems\/([^/]+)$/, load: () => import('./pages/ProblemPage.svelte') },
  { at: /^\/runs$/, load: () => import('./pages/Runs.svelte') },
  { at: /^\/runs\/([^/]+)\/(?:compare|beside)$/, load: () => import('./pages/ComparePage.svelte') },
  { at: /^\/runs\/([^/]+)$/, load: () => import('./pages/RunPage.svelte') },
];
const NOWHERE: Place = { at: /.*/, load: () => import('./pages/NotFound.svelte') };

/** The page of an address, and what the address names. */
export function pageAt(path: string): { load(): Promise<Page>; name: string } {
  const place = PLACES.find(({ at }) => at.test(path)) ?? NOWHERE;
  const name = decoded(place === NOWHERE ? path : (place.at.exec(path)?.[1] ?? ''));
  return { load: async () => (await place.load()).default as Page, name };
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

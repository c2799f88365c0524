import type { RouteName } from './routes/index.js';

/*
 * Names of the API of version 0.1 that version 0.2 still accepts. Remove this file with version 0.3.
 */

/** Former paths, by the route that answers there now. */
export const FORMER_PATHS: Partial<Record<RouteName, string>> = {
  activateRevision: '/flows/:name/revisions/:revision/live',
  attachWithProgress: '/servers/attach/watched',
  availableModels: '/models/:name/offers',
  rejectProposal: '/workshop/proposals/:id/decline',
  acceptProposal: '/workshop/proposals/:id/take',
  compareRuns: '/runs/:id/beside',
  continueRun: '/runs/:id/step',
  fixRun: '/runs/:id/cure',
  inspectDocument: '/documents/read',
  metricSeries: '/figures',
  recognizeServers: '/servers/understand',
  refreshDocument: '/documents/:name/update',
  rejectChanges: '/servers/:name/changes/refuse',
  removeStub: '/flows/:name/held/:step',
  reportPresence: '/flows/:name/here',
  restoreRemoved: '/removals/:id/put-back',
  retryRun: '/runs/:id/again',
  runDraftTrial: '/flows/:name/try/stream',
  selectTool: '/endpoints/:name/choose',
  serverHistory: '/servers/:name/lists',
  stubStep: '/flows/:name/held/:step',
};

/** Present names of fields and query parameters, by their former ones. */
const FIELDS: Record<string, string> = {
  anyway: 'force',
  dealtWith: 'handled',
  exact: 'capture',
  remarks: 'suggestions',
  untested: 'skipTest',
};
/** Present values of `state`, by their former ones. */
const STATES: Record<string, string> = { mended: 'resolved', returned: 'recurring' };

/**
 * Replaces former names at the top level of a request.
 * @param value a body or a query
 * @returns a copy with present names, or null if the value has no former name
 */
export function withPresentNames(value: unknown): Record<string, unknown> | null {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return null;
  let isFormer = false;
  const entries = Object.entries(value).map(([name, held]) => {
    if (Object.hasOwn(FIELDS, name) && !Object.hasOwn(value, FIELDS[name]!)) {
      isFormer = true;
      return [FIELDS[name]!, held] as const;
    }
    if (name === 'state' && typeof held === 'string' && Object.hasOwn(STATES, held)) {
      isFormer = true;
      return [name, STATES[held]] as const;
    }
    return [name, held] as const;
  });
  return isFormer ? Object.fromEntries(entries) : null;
}

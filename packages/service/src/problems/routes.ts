import { type Finding, fixWords, PindroError } from '@pindro/core';
import type { Api } from '../platform/api.js';
import type { Parts } from '../platform/capability.js';
import { applyProposedFix } from './apply-fix.js';
import { problemFeed } from './feed.js';
import { tryFix } from './test-fix.js';

/** What routes and fixes of problems use of other capabilities. */
export const PROBLEM_PARTS = [
  ...(['runs', 'runner', 'flows', 'publishFlow', 'servers', 'models', 'credentials'] as const),
] as const;
const DAY = 24 * 60 * 60_000;

type ProblemParts = Pick<Parts, (typeof PROBLEM_PARTS)[number] | 'problems' | 'diagnoser' | 'address'>;

export function problemRoutes(api: Api, parts: ProblemParts): void {
  const { problems, runs, diagnoser } = parts;
  api.on('listProblems', ({ query }) => ({ items: problems.list(query), open: problems.count() }));
  api.on('problemFeed', ({ response }) => {
    response.type('application/atom+xml').send(problemFeed(problems.list({ limit: 50 }), parts.address()));
    return '';
  });
  api.on('getProblem', (call) => problems.show(problems.named(call.param('id'))));
  api.on('updateProblem', (call) => {
    const { state, days, note } = call.body;
    const until = state === 'expected' && days !== undefined ? Date.now() + days * DAY : null;
    return problems.judge(problems.named(call.param('id')), { state, until, note, by: call.who.caller.id });
  });

  api.on('fixRun', async (call) => {
    const id = call.param('id');
    const found = canFix(id, await diagnoser.of(runs.tree(id)), call.body.finding);
    const cure = found.cure!;
    if (call.body.try) {
      const tried = cure.do === 'change' ? await tryFix(cure, found, parts) : null;
      return { done: fixWords(cure), made: false, tried, checked: null, draft: null };
    }
    const outcome = await applyProposedFix(cure, call.body.publish, parts);
    const isForDraft = runs.get(id).head.stage === 'draft';
    const helps = outcome.made && outcome.checked?.fine !== false && (outcome.draft === null || isForDraft);
    // The problem counts as resolved until it happens again.
    if (helps && problems.has(found.fingerprint)) {
      const by = call.who.caller.id;
      problems.judge(found.fingerprint, { state: 'resolved', until: null, note: fixWords(cure), by });
    }
    return { done: fixWords(cure), tried: null, ...outcome };
  });
}

/** The finding whose change is to be made: the one that was named, or the only one. */
function canFix(run: string, findings: readonly Finding[], wanted: string | undefined): Finding {
  const can = findings.filter(({ cure, fingerprint }) => cure && (wanted === undefined || fingerprint === wanted));
  const [only] = can;
  if (only && (can.length === 1 || wanted !== undefined)) return only;
  const why = only
    ? `Run ${run} has ${can.length} findings with a fix; name one: ${can.map(({ fingerprint, title }) => `${fingerprint} (${title})`).join(', ')}`
    : `Run ${run} has no finding with an automatic fix`;
  throw new PindroError('request_invalid', {
    why,
    fix: only ? '' : `"pindro run show ${run}" lists its findings and where to fix them.`,
  });
}

import type { Approval, StandingApproval } from '@pindro/contract';
import { GRANT_WORDS, humanDuration } from '@pindro/core/browser';
import pc from 'picocolors';
import { brief, facts, moment } from './table.js';

type Values = Record<string, unknown>;
const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** Who decided, when, with which note, and what the approval covers. */
export function decisionText({ decision, by, note, decidedAt, grant, grantedUntil }: Approval): string {
  if (decision === null) return 'open';
  const covers = grant === null || grant === 'call' ? '' : `, for ${GRANT_WORDS[grant]} until ${moment(grantedUntil)}`;
  return `${decision}${by ? ` by ${by}` : ''}, ${moment(decidedAt)}${covers}${note ? `: ${note}` : ''}`;
}

/** Arguments that the approver changed, each as `name: before → after`. */
export function changesText({ facts: asked, sent }: Approval): string[] {
  const [before, after] = [asked as Values, (sent ?? asked) as Values];
  return [...new Set([...Object.keys(before), ...Object.keys(after)])]
    .filter((name) => !same(before[name], after[name]))
    .map((name) => `${name}: ${brief(before[name], 60)} → ${brief(after[name], 60)}`);
}

/** A question with its arguments as they are sent, or will be. */
export function showApproval(one: Approval): string {
  const values = (one.sent ?? one.facts) as Values;
  const rows = Object.entries(values).map(([name, value]): [string, string] => {
    const before = (one.facts as Values)[name];
    const was = same(before, value)
      ? ''
      : pc.yellow(`  requested: ${before === undefined ? 'not there' : brief(before, 60)}`);
    return [name, `${brief(value, 120)}${was}`];
  });
  return [
    pc.bold(one.title),
    ...(one.message ? [one.message] : []),
    ...(rows.length > 0 ? [facts(rows)] : []),
    one.decision === null ? validityText(one) : decisionText(one),
  ].join('\n');
}

/** What an approval covers, and what the approver may extend it to. */
function validityText({ grants, fourEyes, answers, caller }: Approval): string {
  const wider = grants.allowed.filter((one) => one !== grants.default);
  const longest = grants.longest > 0 ? `, at most ${humanDuration(grants.longest)}` : '';
  const may = wider.length > 0 ? ` --scope also allows ${wider.join(' or ')}${longest}.` : '';
  const who =
    answers === 'caller' ? ` Only ${caller} may decide.` : fourEyes ? ` Not by ${caller}, who requested it.` : '';
  const holds = grants.default === 'call' ? '' : longest;
  return pc.dim(`An approval covers ${GRANT_WORDS[grants.default]}${holds}.${may}${who}`);
}

export const standingRow = (one: StandingApproval): string[] => [
  one.id,
  one.tool,
  one.origin,
  one.grant,
  one.caller,
  one.by,
  one.revokedAt ? `revoked by ${one.revokedBy}` : one.isValid ? moment(one.until) : 'expired',
];

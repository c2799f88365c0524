import { orAborted } from '../../async/abort.js';
import { PindroError } from '../../errors/errors.js';
import { Template } from '../../expression/template.js';
import { isObject, type Json, type JsonObject, type JsonSchema } from '../../json/json.js';
import { type ApprovalGrants, type Decision, deadlineNow } from '../../ports/ports.js';
import { milliseconds } from '../../text/duration.js';
import { type ApprovalRule, approvalRule } from '../../tools/settings.js';
import { GRANTS, type Grant } from '../../trace/receipts/grants.js';
import type { ApprovalNote } from '../../trace/receipts/receipt.js';
import type { AgentContext } from '../context.js';
import type { AgentTool } from '../toolbox/toolbox.js';
import type { Asking, Permission } from './asking.js';

/** How long an answer of the user is waited for, in milliseconds. */
const ANSWER_WITHIN = 24 * 60 * 60_000;

/** The rule of a tool in its long form; null where nobody is asked. */
export function approvalOf(tool: AgentTool): ApprovalRule | null {
  const { approval } = tool;
  if (approval === undefined || approval === 'none') return null;
  const rule = typeof approval === 'string' ? approvalRule.parse({ ask: approval }) : approval;
  return rule.ask === 'none' ? null : rule;
}

/** Whether the condition on the arguments holds. @throws expression_failed where it comes to neither true nor false */
export function isAsked({ if: condition }: ApprovalRule, args: JsonObject, tool: string): boolean {
  if (condition === undefined) return true;
  const { value, missing } = new Template(`\${ ${condition} }`, ['approval', 'if']).fill({ args });
  // What the condition speaks of is not there: it is not said that it does not hold, so somebody looks.
  if (missing.length > 0 || value === undefined) return true;
  if (typeof value === 'boolean') return value;
  throw new PindroError('expression_failed', {
    expression: condition,
    why: `the approval condition of ${tool} is neither true nor false`,
  });
}

/**
 * Asks before a tool is called, and waits for the answer, over restarts too.
 * @param args what will be sent @param path where in the run the call stands
 * @throws call_not_approved
 */
export async function askFirst(
  tool: AgentTool,
  rule: ApprovalRule,
  args: JsonObject,
  path: string,
  { context, patience, conversation, waiting, title: other, fixed, reasons = [], isFirstUse }: Asking,
): Promise<Permission> {
  const { recorder, signal } = context;
  const { ports, caller } = context.run;
  const grants = isFirstUse ? firstUseOf(tool, context) : grantsOf(tool, rule, context, conversation);
  const before = grants && (await ports.approvals.standing?.(Object.values(grants.keys)));
  if (before) return { arguments: args, approval: noteOf(before) };
  const facts = recorder.masker.json(args);
  const title = other ?? `Allow ${context.run.flow} to call ${tool.name.replaceAll('_', ' ')}?`;
  const until = context.services.parkedAt(path) ?? (await deadlineNow(ports.clock)) + milliseconds(rule.within);
  const what = `Approval required: ${title}`;
  waiting(what);
  try {
    await context.services.park({ for: 'person', until, what }, path);
    const asked = ports.approvals.ask(
      {
        ...{ run: recorder.head.id, path, flow: context.run.flow, caller: caller.id, title, until },
        message: [
          ...(tool.origin && !tool.origin.startsWith('flow ') ? [`Tool of ${tool.origin}.`] : []),
          ...reasons.map((one) => recorder.masker.text(`${one}.`)),
        ].join('\n'),
        facts,
        ...(other === undefined && { tool: tool.name, schema: tool.sends ?? tool.schema }),
        by: rule.by,
        ...(rule.four_eyes && { fourEyes: true }),
        ...(grants && { grants }),
        ...(fixed && fixed.length > 0 && { fixed }),
      },
      { signal },
    );
    const decision = await patience.pause(orAborted(asked, signal));
    await context.services.unpark(path);
    return permission(tool, args, facts, decision);
  } finally {
    waiting(null);
  }
}

/** Asks the one who talks to the agent for something, by a form. @param schema of the answer */
export async function askForm(
  question: string,
  schema: JsonSchema,
  path: string,
  { context, patience, waiting }: Asking,
): Promise<Decision> {
  const { recorder, signal } = context;
  const { ports, caller, flow } = context.run;
  const until = context.services.parkedAt(path) ?? (await deadlineNow(ports.clock)) + ANSWER_WITHIN;
  const title = recorder.masker.text(question);
  waiting(title);
  try {
    await context.services.park({ for: 'person', until, what: `Answer required: ${title}` }, path);
    const asked = ports.approvals.ask(
      {
        ...{ run: recorder.head.id, path, flow, caller: caller.id, title, until, schema },
        message: '',
        facts: {},
        by: 'caller',
      },
      { signal },
    );
    const decision = await patience.pause(orAborted(asked, signal));
    await context.services.unpark(path);
    return decision;
  } finally {
    waiting(null);
  }
}

function permission(tool: AgentTool, args: JsonObject, facts: JsonObject, decided: Decision): Permission {
  const { decision, by, note, value } = decided;
  if (decision === 'approved') {
    if (!isObject(value)) return { arguments: args, approval: noteOf(decided) };
    // What the approver saw redacted and left as it was is sent as it was asked.
    const kept = Object.entries(value).map(([name, one]) => [
      name,
      sameJson(one, facts[name]) && args[name] !== undefined ? args[name] : one,
    ]);
    return { arguments: Object.fromEntries(kept) as JsonObject, approval: noteOf(decided, facts, value) };
  }
  const [who, why] =
    decision === 'expired' ? ['nobody', 'answered in time'] : [by || 'somebody', note ? `refused: ${note}` : 'refused'];
  throw new PindroError(
    'call_not_approved',
    { tool: tool.name, who, why },
    { details: { tool: tool.name, decision, by, note } },
  );
}

/** The decision as the trace, the receipt and the model get it. */
function noteOf(
  { by, at, note, grant = 'call' }: Decision,
  facts: JsonObject = {},
  value: JsonObject = {},
): ApprovalNote {
  const names = [...new Set([...Object.keys(facts), ...Object.keys(value)])].filter(
    (name) => !sameJson(facts[name], value[name]),
  );
  const changed = names.map((name) => [name, { from: facts[name] ?? null, to: value[name] ?? null }] as const);
  return {
    ...{ by, note, covers: grant },
    at: at === undefined ? null : new Date(at).toISOString(),
    changed: Object.fromEntries(changed),
  };
}
const sameJson = (a: Json | undefined, b: Json | undefined) => JSON.stringify(a) === JSON.stringify(b);

/** What an approval says to the model: who gave it, their note, and what they changed. Empty without a note or change. */
export function approvalText({ by, note, changed }: ApprovalNote): string {
  const changes = Object.entries(changed).map(
    ([name, { from, to }]) => `${name} from ${JSON.stringify(from)} to ${JSON.stringify(to)}`,
  );
  if (note === '' && changes.length === 0) return '';
  const parts = [
    ...(changes.length > 0 ? [`changed ${changes.join(', ')}`] : []),
    ...(note === '' ? [] : [`noted: ${note}`]),
  ];
  return `(${by} approved this call and ${parts.join('; ')}.)\n`;
}

/** How long the approval of a tool that is new to an agent holds, in milliseconds. */
const FIRST_USE = 365 * 24 * 60 * 60_000;
/** What the first approval of a tool covers: all further calls by this agent, as long as the tool stays as it is. */
function firstUseOf(
  { name, origin, identity }: AgentTool,
  { run: { stage, flow }, path }: AgentContext,
): ApprovalGrants {
  const key = JSON.stringify(['first use', stage, flow, path, name, origin, identity]);
  return {
    default: 'caller',
    allowed: ['call', 'caller'],
    longest: FIRST_USE,
    keys: { conversation: key, caller: key },
    origin,
  };
}

/** What an approval may cover beyond this call; null where it covers the call alone. */
function grantsOf(
  tool: AgentTool,
  { ask, may_grant, holds }: Pick<ApprovalRule, 'ask' | 'may_grant' | 'holds'>,
  context: AgentContext,
  conversation: string,
): ApprovalGrants | null {
  const usual: Grant = ask === 'conversation' || ask === 'caller' ? ask : 'call';
  const widest = GRANTS[Math.max(GRANTS.indexOf(usual), GRANTS.indexOf(may_grant ?? usual))]!;
  if (widest === 'call') return null;
  const { path } = context;
  const { stage, flow, caller } = context.run;
  const place = [stage, flow, path, tool.name, tool.origin, tool.identity, tool.schema, caller.id];
  return {
    default: usual,
    allowed: GRANTS.slice(0, GRANTS.indexOf(widest) + 1),
    longest: milliseconds(holds),
    keys: {
      conversation: JSON.stringify(['conversation', ...place, conversation]),
      caller: JSON.stringify(['caller', ...place]),
    },
    origin: tool.origin,
  };
}

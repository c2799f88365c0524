import { orAborted } from '../abort.js';
import { milliseconds } from '../duration.js';
import { PindroError } from '../errors.js';
import { Template } from '../expression/template.js';
import { isObject, type JsonObject, type JsonSchema } from '../json.js';
import type { Decision } from '../ports.js';
import { type ApprovalRule, approvalRule } from '../tools/settings.js';
import type { AgentContext } from './context.js';
import type { Patience } from './patience.js';
import type { AgentTool } from './toolbox.js';

/** How long an answer of the user is waited for, in milliseconds. */
const ANSWER_WITHIN = 24 * 60 * 60_000;

/** What somebody let happen. */
export interface Permission {
  /** As asked, or as it was changed before it was sent. */
  arguments: JsonObject;
  by: string;
}

/** Where the question stands, and for how long an answer holds. */
export interface Asking {
  context: AgentContext;
  patience: Patience;
  /** What tells this conversation from others. */
  conversation: string;
  /** What is asked, where that is not whether a tool may be called. */
  title?: string;
  /** What happens while somebody is asked. */
  waiting(what: string | null): void;
}

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
    why: `it decides whether somebody is asked before ${tool}, and comes to neither true nor false`,
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
  { context, patience, conversation, waiting, title: other }: Asking,
): Promise<Permission> {
  const { ports, recorder, caller, signal } = context;
  const standing = standingOf(tool, rule, context, conversation);
  const before = standing === null ? null : await ports.approvals.standing?.(standing);
  if (before) return { arguments: args, by: before.by };
  const title = other ?? `Let ${context.flow} call ${tool.name.replaceAll('_', ' ')}?`;
  const until = context.parkedAt(path) ?? (await ports.clock.now()) + milliseconds(rule.within);
  const what = `Somebody is to decide: ${title}`;
  waiting(what);
  try {
    await context.park({ for: 'person', until, what }, path);
    const asked = ports.approvals.ask(
      {
        ...{ run: recorder.head.id, path, flow: context.flow, caller: caller.id, title, until },
        message: tool.origin && !tool.origin.startsWith('flow ') ? `It is a tool of ${tool.origin}.` : '',
        facts: recorder.masker.json(args),
        ...(other === undefined && { tool: tool.name, schema: tool.sends ?? tool.schema }),
        by: rule.by,
        ...(standing !== null && { standing }),
      },
      { signal },
    );
    const decision = await patience.pause(orAborted(asked, signal));
    await context.unpark(path);
    return permission(tool, args, decision);
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
  const { ports, recorder, caller, signal, flow } = context;
  const until = context.parkedAt(path) ?? (await ports.clock.now()) + ANSWER_WITHIN;
  const title = recorder.masker.text(question);
  waiting(title);
  try {
    await context.park({ for: 'person', until, what: `An answer is awaited: ${title}` }, path);
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
    await context.unpark(path);
    return decision;
  } finally {
    waiting(null);
  }
}

function permission(tool: AgentTool, args: JsonObject, { decision, by, note, value }: Decision): Permission {
  if (decision === 'approved') return { arguments: isObject(value) ? value : args, by };
  const [who, why] =
    decision === 'expired' ? ['nobody', 'answered in time'] : [by || 'somebody', note ? `refused: ${note}` : 'refused'];
  throw new PindroError(
    'call_not_approved',
    { tool: tool.name, who, why },
    { details: { tool: tool.name, decision, by, note } },
  );
}

/** For what an answer holds beyond this call; null: for this call alone. */
function standingOf(tool: AgentTool, rule: ApprovalRule, context: AgentContext, conversation: string): string | null {
  const place = [context.stage, context.flow, context.path, tool.name];
  if (rule.ask === 'conversation') return JSON.stringify(['conversation', ...place, conversation]);
  return rule.ask === 'caller' ? JSON.stringify(['caller', ...place, context.caller.id]) : null;
}

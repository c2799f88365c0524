import { asPindroError, type ErrorCode, PindroError, wasCutOff } from '../../errors/errors.js';
import { failureText } from '../../errors/failure-text.js';
import type { Json, JsonObject } from '../../json/json.js';
import type { ToolCall } from '../../models/dialect.js';
import { didYouMean } from '../../text/suggest.js';
import { Budget } from '../../tools/budget.js';
import { approvalRule } from '../../tools/settings.js';
import type { ToolAnswer } from '../../tools/source.js';
import type { ApprovalNote, CallState } from '../../trace/receipts/receipt.js';
import { attribute } from '../../trace/spans/attributes.js';
import type { ReplayedTools } from '../conversation/agent-replay.js';
import type { CallRecord, Conversation } from '../conversation/conversation.js';
import type { AgentTool } from '../toolbox/toolbox.js';
import type { Asking } from './asking.js';
import { handedOn } from './forward-result.js';
import { type Guarded, type Reason, reasonsFor, refuseSecrets } from './guard.js';
import type { LongResults } from './read-more.js';
import { circle } from './repeated-calls.js';
import { approvalOf, approvalText, askFirst, isAsked } from './require-approval.js';

/** What a call that did not come off was: nothing was done where it was refused. */
const REFUSED: readonly ErrorCode[] = [
  'call_not_approved',
  'tool_calls_used',
  'tool_too_early',
  'agent_in_circles',
  'call_limit',
  'run_limit',
  'not_in_record',
  'secret_in_arguments',
  'argument_unexplained',
];

interface Surround extends Asking {
  tools: readonly AgentTool[];
  talk: Conversation;
  /** Where in the run the call stands: it makes the idempotency key with the attempt. */
  path: string;
  /** Where long results are kept to be read on. */
  long: LongResults;
  /** Calls of the same answer that stand before this one. */
  before: number;
  /** Recorded results that replace calls in a retry. */
  rehearsed: ReplayedTools | null;
  /** Facts for the guards in addition to the call. */
  guarded: Omit<Guarded, 'talk' | 'tools' | 'masker'>;
  /** Written down before the tool is called: it may take effect. */
  begin(): Promise<void>;
}

/** Makes one call of a model: looks at it, asks first where that was said, calls the tool, and tells what came of it. Never throws but what stops the agent. */
export async function makeCall(call: ToolCall, around: Surround): Promise<CallRecord> {
  const { context, tools, path } = around;
  const { recorder } = context;
  const tool = tools.find(({ name }) => name === call.name);
  const shown = { path: context.path, id: path.slice(context.path.length + 1), tool: call.name };
  recorder.live({ kind: 'call', ...shown, label: tool?.line ?? tool?.origin ?? '', arguments: call.arguments });
  const base = { call: call.id, tool: call.name, arguments: call.arguments as Json, reads: tool?.reads === true };
  // A purse of its own, so that it is known afterwards what this call took.
  const purse = new Budget({}, context.budget ?? null);
  const settle = (record: Omit<CallRecord, 'call' | 'tool' | 'reads' | 'spent'>): CallRecord => {
    const { state, text, run } = record;
    const { tokens, money, calls, runs } = purse.spent;
    recorder.live({ kind: 'called', ...shown, failed: state !== 'done', text, run });
    return { ...base, ...record, spent: { tokens, money, calls, runs } };
  };
  try {
    if (!tool) throw spanned(call, unknownTool(call, tools), around);
    if (call.unreadable !== undefined) throw spanned(call, unreadable(call), around);
    const kept = standIn(tool, call, around);
    if (kept) return settle({ arguments: call.arguments, ...kept, cost: 0, run: null });
    const { args, approval } = await permitted(tool, call, around);
    takeCall(purse, call, around);
    await around.begin();
    const succeeded = around.talk.succeeded;
    const answer = await tool.call(args, { ...context, path, succeeded, budget: purse, approval }, around);
    const { text: result, pictures, whole, flagged } = handedOn(answer, recorder.masker, tool.server);
    const text = (approval ? recorder.masker.text(approvalText(approval)) : '') + result;
    if (whole !== null) around.long.keep(tool.name, whole);
    return settle({
      ...{ arguments: args, state: stateOf(answer), text, data: bounded(answer.data ?? answer.text) },
      ...{ cost: answer.cost ?? 0, run: answer.run ?? null },
      ...(approval && { approval }),
      ...(flagged !== null && { flagged }),
      ...(answer.receipt && { receipt: answer.receipt }),
      ...(answer.kept && { kept: answer.kept }),
      ...(pictures.length > 0 && { pictures }),
    });
  } catch (thrown) {
    if (context.signal.aborted) throw context.signal.reason;
    const error = asPindroError(thrown);
    if (error.code === 'agent_in_circles' && error.details?.told !== true) throw error;
    const state: CallState =
      error.code === 'call_in_doubt' || (!base.reads && isUnknown(error))
        ? 'unknown'
        : REFUSED.includes(error.code)
          ? 'refused'
          : 'failed';
    const text = `${failureText(error)}${state === 'unknown' ? UNKNOWN : ''}`;
    const run = error.run ?? null;
    return settle({
      arguments: call.arguments,
      state,
      text,
      data: { error: error.message },
      cost: 0,
      run,
      code: error.code,
    });
  }
}

const UNKNOWN = ' The call may have taken effect. Check the outcome before you retry it.';
/** Errors of a call after it was sent. */
const AFTER_SENDING: readonly ErrorCode[] = ['server_lost', 'timed_out'];

/** Whether a call was sent, and nobody knows what came of it. */
const isUnknown = (error: PindroError): boolean => AFTER_SENDING.includes(error.code) || wasCutOff(error);

/** What is to be sent, once nothing and nobody speaks against it. */
async function permitted(
  tool: AgentTool,
  call: ToolCall,
  around: Surround,
): Promise<{ args: JsonObject; approval?: ApprovalNote }> {
  const { talk, path } = around;
  // The service stopped during this call. Read-only and resumable calls may be repeated.
  if (talk.isCalling(call.id)) {
    if (tool.resumes || tool.reads) return { args: call.arguments };
    throw spanned(
      call,
      new PindroError('call_in_doubt', { tool: tool.name }, { details: { tool: tool.name } }),
      around,
    );
  }
  const why = circle(call, talk.calls);
  if (why !== null)
    throw spanned(
      call,
      new PindroError('agent_in_circles', { why }, { details: { tool: tool.name, told: true } }),
      around,
    );
  const used = talk.calls.filter((one) => one.tool === tool.name && one.state !== 'refused').length + around.before;
  if (tool.calls !== undefined && used >= tool.calls)
    throw spanned(call, new PindroError('tool_calls_used', { tool: tool.name, limit: tool.calls }), around);
  const rule = approvalOf(tool);
  const reasons = guardedReasons(tool, call, around);
  if (!rule && reasons.length === 0) return { args: call.arguments };
  // Calls that violate the tool's schema are rejected before anybody is asked to approve.
  const sent = tool.prepare?.(call.arguments, around.context.late) ?? call.arguments;
  const isRuled = rule !== null && isAsked(rule, sent, tool.name);
  if (!isRuled && reasons.length === 0) return { args: call.arguments };
  // Once for an agent where the tool is only new to it, and each time where something speaks against the call.
  const isFirstUse = !isRuled && reasons.every(({ kind }) => kind === 'first-use');
  const asking =
    isRuled && reasons.length === 0
      ? rule
      : approvalRule.parse({ ...(rule && { by: rule.by, within: rule.within, four_eyes: rule.four_eyes }) });
  try {
    const { arguments: changed, approval } = await askFirst(tool, asking, sent, path, {
      ...around,
      reasons: reasons.map(({ says }) => says),
      isFirstUse,
      fixed: Object.keys(sent).filter((name) => !(name in call.arguments)),
    });
    return { args: changed === sent ? call.arguments : asked(changed, sent, call.arguments), approval };
  } catch (error) {
    throw error instanceof PindroError && error.code === 'call_not_approved' ? spanned(call, error, around) : error;
  }
}

/** Returns why guards require an approval. @throws secret_in_arguments, argument_unexplained */
function guardedReasons(tool: AgentTool, call: ToolCall, around: Surround): Reason[] {
  const { masker } = around.context.recorder;
  try {
    refuseSecrets(tool, call.arguments, masker);
    return reasonsFor(tool, call.arguments, { ...around.guarded, talk: around.talk, tools: around.tools, masker });
  } catch (error) {
    throw spanned(call, asPindroError(error), around);
  }
}

/** The recorded result of a call; its span is marked as replayed. */
function standIn(
  tool: AgentTool,
  call: ToolCall,
  around: Surround,
): Pick<CallRecord, 'state' | 'text' | 'data'> | null {
  const { rehearsed, context } = around;
  if (!rehearsed) return null;
  try {
    const kept = rehearsed.answer(tool.name, call.arguments, tool.reads);
    if (!kept) return null;
    const { state, text, data } = kept;
    const own = { [attribute.operation]: 'execute_tool', [attribute.tool]: tool.name, [attribute.held]: true };
    context.recorder
      .span('tool', `execute_tool ${tool.name}`, context.parentSpan, { input: call.arguments, attributes: own })
      .done(data);
    return { state, text, data };
  } catch (error) {
    throw spanned(call, asPindroError(error), around);
  }
}

/** What was changed of what will be sent, as the model could have asked it: what the rules add is added again. */
function asked(changed: JsonObject, sent: JsonObject, given: JsonObject): JsonObject {
  const added = Object.keys(sent).filter((name) => !(name in given));
  return Object.fromEntries(Object.entries(changed).filter(([name]) => !added.includes(name)));
}

function takeCall(purse: Budget, call: ToolCall, around: Surround): void {
  try {
    purse.take('calls');
  } catch (error) {
    throw spanned(call, asPindroError(error), around);
  }
}

const stateOf = ({ data }: ToolAnswer): CallState =>
  typeof data === 'object' && data !== null && !Array.isArray(data) && data.state === 'waiting' && 'waits_for' in data
    ? 'waiting'
    : 'done';

/** In characters: the step's output holds every result, and the journal all of them. */
const LONGEST_DATA = 256 * 1024;
function bounded(data: Json): Json {
  const text = JSON.stringify(data);
  return text.length <= LONGEST_DATA ? data : `${text.slice(0, LONGEST_DATA)}… (${text.length} characters in total)`;
}

const unknownTool = (call: ToolCall, tools: readonly AgentTool[]) => {
  const names = tools.map(({ name }) => name);
  const suggestion = didYouMean(call.name, names);
  return new PindroError(
    'tool_unknown',
    { tool: call.name, where: 'this agent', suggestion },
    { details: { tool: call.name } },
  );
};
const unreadable = (call: ToolCall) =>
  new PindroError(
    'arguments_refused',
    { tool: call.name, why: 'the arguments are not a JSON object', fix: 'Send the arguments as one JSON object.' },
    { details: { tool: call.name } },
  );

/** A call that never reaches a tool still leaves a span, so that the trace shows what the model tried. */
function spanned(call: ToolCall, error: PindroError, { context }: Surround): PindroError {
  context.recorder
    .span('tool', `execute_tool ${call.name}`, context.parentSpan, {
      input: call.unreadable ?? call.arguments,
      attributes: { [attribute.operation]: 'execute_tool', [attribute.tool]: call.name },
    })
    .fail(error);
  return error;
}

import type { Approval, Client, Outcome } from '@pindro/contract';
import { isObject, type Json, type JsonObject, type JsonSchema } from '@pindro/core/browser';
import pc from 'picocolors';
import { collectValue } from '../input/pairs.js';
import { showApproval } from '../output/approval.js';
import { safe } from '../output/safe.js';

/** Prompts at the terminal. @returns null when the input has ended */
export type Ask = (question: string) => Promise<string | null>;

/** Polling interval for a run that waits for others, in milliseconds. */
const EVERY = 1000;
const pause = (milliseconds: number) => new Promise((resolve) => setTimeout(resolve, milliseconds));
const say = (text: string) => void process.stdout.write(safe(text));

/**
 * Answers approvals and questions of a run here until it ends or waits for a time.
 * @param ask null without a terminal; then waits until somebody decides elsewhere
 */
export async function settle(client: Client, outcome: Outcome, ask: Ask | null): Promise<Outcome> {
  let now = outcome;
  let asking = ask;
  while (now.state === 'waiting' || now.state === 'running') {
    const { items } = await client.listApprovals({});
    const open = items.find((one) => one.run === now.run);
    if (!open && now.waitsFor && now.waitsFor.for !== 'person') return now;
    if (open && asking && !(await decide(client, open, asking))) asking = null;
    else if (!open || !asking) await pause(EVERY);
    now = await outcomeOf(client, now);
  }
  return now;
}

async function outcomeOf(client: Client, before: Outcome): Promise<Outcome> {
  const run = await client.getRun({ id: before.run, query: { brief: 'true' } });
  const { state, result, error, receipt, waits } = run;
  return { ...before, state, result, error, receipt, waitsFor: (waits[0] as Outcome['waitsFor'] | undefined) ?? null };
}

/** @returns false when the input has ended */
async function decide(client: Client, one: Approval, ask: Ask): Promise<boolean> {
  const isQuestion = one.tool === null && one.schema !== null;
  say(`\n${pc.yellow('○')} ${showApproval(one)}\n`);
  const value = isQuestion ? await answerTo(one.schema as JsonSchema, ask) : undefined;
  if (value === null) return false;
  let changed: JsonObject | undefined = value;
  for (;;) {
    const answer = isQuestion
      ? 'y'
      : await ask(pc.yellow('  approve? y = yes, n = no, name=value changes an argument: '));
    if (answer === null) return false;
    const said = answer.trim();
    if (/^\S+?=/.test(said)) {
      changed = { ...(one.facts as JsonObject), ...changed, ...(collectValue(said, {}) as JsonObject) };
      say(pc.dim(`  will be sent: ${JSON.stringify(changed)}\n`));
      continue;
    }
    const isYes = /^y(es)?$/i.test(said);
    const decision = isYes ? ('approved' as const) : /^n(o)?\b/i.test(said) ? ('refused' as const) : null;
    if (decision === null) continue;
    const note = decision === 'refused' ? said.replace(/^no?\b[ ,:]*/i, '') : '';
    try {
      const body = { path: one.path, decision, note, ...(decision === 'approved' && changed && { value: changed }) };
      await client.decide({ run: one.run, body });
      return true;
    } catch (error) {
      // Such as a value that does not fit: it can be written again.
      say(`${pc.red('✗')} ${(error as Error).message}\n`);
      if (isQuestion) return decide(client, one, ask);
      changed = undefined;
    }
  }
}

/** Asks for each field of an answer. @returns null when nobody answers */
async function answerTo(schema: JsonSchema, ask: Ask): Promise<JsonObject | null> {
  const properties = isObject(schema.properties) ? schema.properties : {};
  const required = Array.isArray(schema.required) ? schema.required : [];
  const value: JsonObject = {};
  for (const [name, one] of Object.entries(properties)) {
    const field = isObject(one) ? one : {};
    const options = Array.isArray(field.enum) ? ` (${field.enum.join(', ')})` : '';
    const optional = required.includes(name) ? '' : ' (optional)';
    const about = typeof field.description === 'string' ? pc.dim(`  ${field.description}\n`) : '';
    const text = await ask(`${about}  ${name}${options}${optional}: `);
    if (text === null) return null;
    if (text.trim() !== '') value[name] = readAs(field, text.trim());
  }
  return value;
}

function readAs({ type, enum: options }: JsonObject, text: string): Json {
  if (Array.isArray(options)) return options.find((one) => String(one) === text) ?? text;
  if (type === 'string') return text;
  if (type === 'boolean' && /^(y|yes|n|no)$/i.test(text)) return /^y/i.test(text);
  try {
    return JSON.parse(text) as Json;
  } catch {
    return text;
  }
}

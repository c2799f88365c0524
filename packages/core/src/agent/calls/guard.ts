import { PindroError } from '../../errors/errors.js';
import { isObject, type Json, type JsonObject } from '../../json/json.js';
import type { Masker } from '../../trace/secrets/masking.js';
import { type Told, unexplainedIn } from '../claims/unexplained.js';
import type { Conversation } from '../conversation/conversation.js';
import type { AgentTool } from '../toolbox/toolbox.js';
import { READS_LIKE_ORDERS } from './forward-result.js';

/** Access keys of Pindro itself, of which only hashes are kept. */
const OWN_KEY = /pindro_[\w-]{43}/;

/** Why a call requires approval although no rule of the builder says so. */
export interface Reason {
  /** `first-use` holds for the agent from then on; the others for the one call. */
  kind: 'untrusted-content' | 'first-use' | 'unexplained';
  says: string;
}

/** Facts for a guard in addition to the call. */
export interface Guarded {
  talk: Conversation;
  tools: readonly AgentTool[];
  masker: Masker;
  /** The instructions of the agent, and what it remembers of earlier exchanges. */
  instructions: string;
  memory: readonly string[];
  /** What the user says now. */
  message: string;
  /** When what the agent uses was chosen, in milliseconds since the epoch; null where nobody knows. */
  chosenAt: number | null;
}

/**
 * Rejects secrets in arguments from the model. Values of the builder are not checked.
 * @param args arguments from the model
 * @throws secret_in_arguments
 */
export function refuseSecrets(tool: AgentTool, args: JsonObject, masker: Masker): void {
  if (tool.server === undefined) return;
  const holds = (value: Json): boolean => {
    if (typeof value === 'string') return masker.text(value) !== value || OWN_KEY.test(value);
    if (Array.isArray(value)) return value.some(holds);
    return isObject(value) && Object.entries(value).some(([name, inner]) => holds(name) || holds(inner));
  };
  const [argument] = Object.entries(args).find(([, value]) => holds(value)) ?? [];
  if (argument !== undefined)
    throw new PindroError(
      'secret_in_arguments',
      { tool: tool.name, argument },
      { details: { tool: tool.name, argument } },
    );
}

/** Why a call requires approval. @throws argument_unexplained where the builder wants such calls stopped */
export function reasonsFor(tool: AgentTool, args: JsonObject, guarded: Guarded): Reason[] {
  const reasons: Reason[] = [];
  const hasEffects = !tool.reads;
  const content = hasEffects ? untrustedContent(guarded) : null;
  if (content !== null) reasons.push({ kind: 'untrusted-content', says: content });
  const { chosenAt } = guarded;
  if (hasEffects && tool.changedAt !== undefined && chosenAt !== null && tool.changedAt > chosenAt)
    reasons.push({ kind: 'first-use', says: `${tool.name} was added or changed after this agent was created` });
  if (tool.server !== undefined && tool.unexplained !== 'allow') {
    const found = unexplainedIn(args, toldTo(tool, guarded));
    if (found && tool.unexplained === 'stop')
      throw new PindroError(
        'argument_unexplained',
        { tool: tool.name, ...found },
        { details: { tool: tool.name, ...found } },
      );
    if (found) reasons.push({ kind: 'unexplained', says: `The argument "${found.argument}" ${found.why}` });
  }
  return reasons;
}

/** What of untrusted origin has entered the conversation, as a sentence; null where nothing has. */
function untrustedContent({ talk, tools }: Guarded): string | null {
  const flagged = tools.find((tool) => tool.flagged !== undefined);
  if (flagged) return `The description of ${flagged.name} is flagged: ${flagged.flagged}`;
  const result = talk.calls.find((one) => one.flagged !== undefined);
  if (result) return `A result of ${result.tool} entered this conversation, and ${result.flagged}`;
  const untrusted = new Set(tools.filter((tool) => tool.untrusted).map(({ name }) => name));
  const read = talk.turns.find(
    (turn) => turn.role === 'tool' && (untrusted.has(turn.name) || turn.text.includes(READS_LIKE_ORDERS)),
  );
  return read?.role === 'tool' ? `A result of ${read.name}, which is untrusted, entered this conversation` : null;
}

/** What explains the arguments of a tool, and what they must not repeat. */
function toldTo(tool: AgentTool, { talk, tools, instructions, memory, message }: Guarded): Told {
  const serverOf = new Map(tools.map(({ name, server }) => [name, server]));
  const results = talk.turns.filter((turn) => turn.role === 'tool');
  const own = results.filter(({ name }) => serverOf.get(name) === tool.server);
  const others = results.filter(({ name }) => serverOf.get(name) !== undefined && serverOf.get(name) !== tool.server);
  return {
    explains: [message, tool.description, JSON.stringify(tool.schema), ...own.map(({ text }) => text)],
    guarded: [
      { what: "the agent's instructions", text: instructions },
      ...memory.map((text) => ({ what: "the agent's memory", text })),
      ...others.map(({ text, name }) => ({ what: `a result of ${name}, a tool of another server`, text })),
    ],
  };
}

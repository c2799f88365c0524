import { asPindroError, PindroError } from '../../errors/errors.js';
import type { Json, JsonObject } from '../../json/json.js';
import { asJson } from '../../json/json.js';
import type { Turn } from '../../models/dialect.js';
import { priceOf, settingsOf } from '../../models/settings.js';
import type { ModelConnection } from '../../ports/ports.js';
import type { Budget } from '../../tools/budget.js';
import { approvalRule } from '../../tools/settings.js';
import { estimateTokens } from '../../tools/tokens.js';
import type { Receipt } from '../../trace/receipts/receipt.js';
import { attribute } from '../../trace/spans/attributes.js';
import { ticked } from '../built-in/registry.js';
import { makeCall } from '../calls/calls.js';
import { READ_ON } from '../calls/forward-result.js';
import { LongResults } from '../calls/read-more.js';
import { requireLearning } from '../calls/repeated-calls.js';
import { askFirst } from '../calls/require-approval.js';
import { receiptOf } from '../claims/receipt.js';
import type { AgentConfig } from '../config.js';
import type { AgentContext } from '../context.js';
import { budgetOf, longestAnswer } from '../limits.js';
import { keep, NOTHING, type Remembered, recall } from '../memory/recall.js';
import { fitTurns, tokensOf } from '../memory/window.js';
import { findTools, foundIn } from '../toolbox/find-tools.js';
import { type FillPart, lateFiller } from '../toolbox/stored-values.js';
import type { Toolbox } from '../toolbox/toolbox.js';
import { type AgentTool, asOffered, withBuiltIn } from '../toolbox/toolbox.js';
import { ReplayedTools } from './agent-replay.js';
import { askOnce } from './ask-model.js';
import { type AgentEntry, Conversation } from './conversation.js';
import { systemWords } from './system-words.js';
import type { Patience } from './timeout.js';

export interface AgentAnswer {
  answer: string;
  rounds: number;
  tokens: { input: number; output: number };
  /** What the models and tools cost, where that is known. */
  cost: number;
  /** Every tool call in order, with how it went. */
  calls: { tool: string; arguments: Json; failed: boolean; state: string; result: Json; run: string | null }[];
  receipt: Receipt;
}

export interface AgentRun {
  config: AgentConfig;
  toolbox: Toolbox;
  connection: ModelConnection;
  context: AgentContext;
  /** The instructions, with what was kept so far. */
  instructions(kept: JsonObject): string;
  fill: FillPart;
  /** When what it uses was chosen, in milliseconds since the epoch; null where nobody knows. */
  chosenAt: number | null;
  /** Under which key the conversation is kept, or null. */
  memory: string | null;
}

/** Of what a model can read so much is left for what it says, where that is not set, as a part of all. */
const FOR_THE_ANSWER = 0.25;
/** So much is summed up at once, in characters. */
const SUMMED_UP = 40_000;
const SUM_UP =
  'Summarize what matters later from this conversation, in at most 150 words: facts, decisions, open questions. No greeting, no advice.';
/** How often a conversation is made shorter where the model says that it is too long. */
const SHORTER = 3;

/** One active conversation. */
export class AgentConversation {
  readonly #talk: Conversation;
  readonly #budget: Budget;
  /** All that it may call: what its toolbox holds, what is built in, and how it looks for tools. */
  readonly #tools: AgentTool[];
  /** How many tokens the model says it read, of each that was estimated. */
  #ratio = 1;
  #waits = 0;
  readonly #long = new LongResults();
  #remembered: Remembered = NOTHING;
  readonly #rehearsed: ReplayedTools | null;
  #counted: { names: string; tokens: number } | null = null;

  constructor(
    private readonly run: AgentRun,
    private readonly context: AgentContext,
    private readonly patience: Patience,
  ) {
    this.#talk = new Conversation();
    const { config, toolbox, memory } = run;
    const own = ticked(config, memory);
    if (config.offer === 'look_up' && toolbox.tools.length > 0) own.push(findTools(toolbox.tools));
    this.#tools = withBuiltIn(toolbox.tools, [...own, this.#long.tool]);
    this.#budget = budgetOf(run.config, context.budget);
    const rehearsal = context.services.rehearsal();
    this.#rehearsed = rehearsal ? new ReplayedTools(rehearsal) : null;
    const conversed = this.#rehearsed?.before(config.message) ?? context.services.conversed();
    for (const entry of conversed) {
      this.#take(entry);
      // What was spent before the service was started again: by the call itself, and by whom it handed work to.
      if (entry.is === 'result') this.#budget.spend(entry.result.spent ?? {});
    }
  }

  /** Begins with what is remembered; the lock on it is held until it is released. */
  async remember(key: string): Promise<void> {
    this.#remembered = await recall(key, this.run.config.memory!, this.context);
    this.begin(this.#remembered.turns);
  }

  begin(remembered: Turn[]): void {
    if (this.#talk.begun) return;
    this.#note({ is: 'begun', turns: [...remembered, { role: 'user', text: this.run.config.message }] });
  }

  /** Continues until the model has answered with text. */
  async goOn(): Promise<void> {
    const { context } = this;
    while (!this.#talk.isOver) {
      if (this.#talk.open.length > 0) await this.#work();
      else await this.#ask();
      if (context.signal.aborted) throw context.signal.reason;
    }
  }

  async keep(key: string): Promise<void> {
    // What is only done again was remembered the first time.
    if (this.#rehearsed) return;
    const whole = { turns: this.#talk.turns, kept: this.#kept() };
    await keep(key, this.run.config.memory!, whole, this.context, (turns) => this.#sumUp(turns));
  }

  /** What falls out of memory, summed up with what was summed up before. It costs like any other question. */
  async #sumUp(turns: readonly Turn[]): Promise<string> {
    const said = turns
      .map((turn) => `${turn.role === 'tool' ? `result of ${turn.name}` : turn.role}: ${turn.text}`)
      .join('\n');
    const before = this.#remembered.abstract ? `Summary so far:\n${this.#remembered.abstract}\n\n` : '';
    const text = `${before}Then:\n${said.slice(0, SUMMED_UP)}`;
    const question: Turn[] = [
      { role: 'system', text: SUM_UP },
      { role: 'user', text },
    ];
    try {
      const answer = await askOnce(this.run.connection, question, [], this.context, {
        attributes: {},
        longest: 400,
        unseen: true,
      });
      this.#budget.spend({ tokens: answer.usage.input + answer.usage.output });
      return answer.text;
    } catch (error) {
      if (this.context.signal.aborted) throw error;
      // What was answered stands; the abstract is the one of before.
      return '';
    }
  }

  receipt(): Receipt {
    const doers = new Set(this.#tools.filter(({ reads }) => !reads).map(({ name }) => name));
    const asked = this.#talk.turns.findLastIndex(({ role }) => role === 'user');
    const before = this.#talk.turns.slice(0, asked);
    return receiptOf(this.#talk.calls, {
      ...{ answer: this.#talk.isOver ? this.#talk.answer : '', end: this.#talk.end, canDo: doers.size > 0 },
      didBefore: before.some((turn) => turn.role === 'tool' && !turn.failed && doers.has(turn.name)),
    });
  }

  outcome(): AgentAnswer {
    const { answer, rounds, usage, cost, calls } = this.#talk;
    return {
      ...{ answer, rounds, cost },
      tokens: { input: usage.input, output: usage.output },
      calls: calls.map(({ tool, arguments: args, state, data, run }) => ({
        ...{ tool, arguments: args, state, run, result: data },
        failed: state !== 'done' && state !== 'waiting',
      })),
      receipt: this.receipt(),
    };
  }

  /** Estimated tokens of the tools; counted again only if they change. */
  #tokensOf(tools: readonly AgentTool[]): number {
    const names = tools.map(({ name }) => name).join();
    if (this.#counted?.names !== names) {
      const shown = tools.map(({ name, description, schema }) => ({ name, description, schema }));
      this.#counted = { names, tokens: estimateTokens(shown) };
    }
    return this.#counted.tokens;
  }

  /** The tools that the model is shown now. */
  #offered(): AgentTool[] {
    const shown = this.#tools.filter(({ name }) => name !== READ_ON || !this.#long.isEmpty);
    if (this.run.config.offer === 'all') return shown;
    const found = foundIn(this.#talk.calls);
    const hidden = new Set(this.run.toolbox.tools.map(({ name }) => name).filter((name) => !found.has(name)));
    return shown.filter(({ name }) => !hidden.has(name));
  }

  /** What is kept of results, of this exchange and earlier ones. */
  #kept(): JsonObject {
    return { ...this.#remembered.kept, ...this.#talk.kept };
  }

  #note(entry: AgentEntry): void {
    const { recorder, path } = this.context;
    recorder.journal({ type: 'agent_turn', path, turn: asJson(entry) });
    this.#take(entry);
  }

  #take(entry: AgentEntry): void {
    this.#talk.take(entry);
    if (entry.is === 'answered')
      this.#budget.spend({ tokens: entry.usage.input + entry.usage.output, money: entry.cost ?? 0 });
    if (entry.is === 'result') this.#budget.spend({ money: entry.result.cost });
    const { tokens, money = 0 } = this.run.config.limits;
    if (entry.is === 'granted')
      this.#budget.extend(entry.limit === 'tokens' ? { tokens } : entry.limit === 'money' ? { money } : {});
  }

  async #ask(): Promise<void> {
    const { connection, toolbox } = this.run;
    const offered = this.#offered();
    const settings = settingsOf(connection.settings);
    const words = systemWords(this.run.instructions(this.#kept()), toolbox, offered.length > 0, this.#remembered);
    const system: Turn[] = words ? [{ role: 'system', text: words }] : [];
    const tools = this.#tokensOf(offered);
    const fixed = tools + system.reduce((sum, turn) => sum + tokensOf(turn), 0);
    let most = this.#mostTurns(settings, fixed);
    for (let attempt = 0; ; attempt++) {
      const { turns, left } = fitTurns(this.#talk.turns, most);
      const estimate = fixed + turns.reduce((sum, turn) => sum + tokensOf(turn), 0);
      const longest = await this.#withinLimits(settings, Math.ceil(estimate * this.#ratio));
      try {
        const answer = await askOnce(connection, [...system, ...turns], offered.map(asOffered), this.context, {
          attributes: {
            [attribute.round]: this.#talk.rounds + 1,
            ...(left.length > 0 && { [attribute.leftOut]: left }),
          },
          ...(longest !== null && { longest }),
        });
        if (answer.usage.input > 0 && estimate > 0)
          this.#ratio = Math.min(4, Math.max(0.5, answer.usage.input / estimate));
        const { text, calls, end, usage, reasoning, by } = answer;
        const cost = priceOf(settingsOf(by.settings), usage);
        this.#note({
          is: 'answered',
          text,
          calls: distinct(calls),
          end,
          usage,
          cost,
          by: by.name,
          ...(reasoning && { reasoning }),
        });
        return;
      } catch (error) {
        // If the model reports a smaller context window, the request is shortened.
        const kind = error instanceof PindroError && error.code === 'model_refused' ? error.details?.kind : null;
        if (kind !== 'context' || attempt >= SHORTER) throw error;
        const now = turns.reduce((sum, turn) => sum + tokensOf(turn), 0);
        most = Math.floor(now / 2);
      }
    }
  }

  /** Token budget of the turns for this model. */
  #mostTurns({ context, max_tokens }: ReturnType<typeof settingsOf>, fixed: number): number {
    if (context === undefined) return Number.POSITIVE_INFINITY;
    const answer = Math.min(max_tokens ?? context * FOR_THE_ANSWER, context / 2);
    return Math.max(200, (context - answer) / this.#ratio - fixed);
  }

  /** @returns the maximum length of the answer @throws the limit that is reached, unless somebody extends it */
  async #withinLimits(settings: ReturnType<typeof settingsOf>, reads: number): Promise<number | null> {
    for (;;) {
      try {
        return longestAnswer(this.run.config, { talk: this.#talk, budget: this.#budget }, settings, reads);
      } catch (thrown) {
        const error = asPindroError(thrown);
        const limit = error.code.replace('_limit', '').replace('round', 'rounds').replace('token', 'tokens');
        if (!this.run.config.limits.raise || !(await this.#mayGoOn(limit, error))) throw error;
      }
    }
  }

  /** Asks whether the agent may continue beyond a limit. */
  async #mayGoOn(limit: string, error: PindroError): Promise<boolean> {
    const times = (this.#talk.granted.get(limit) ?? 0) + 1;
    const question = {
      ...{ name: `limit_${limit}`, description: error.message, origin: '', identity: '', reads: false },
      ...{ schema: { type: 'object' }, call: () => Promise.reject(error) },
    };
    const { limits } = this.run.config;
    const facts = { limit, now: error.message, rounds: this.#talk.rounds, cost: this.#talk.cost };
    const path = `${this.context.path}/${limit}${times}`;
    const rule = approvalRule.parse({ by: limits.raise!, within: '1d' });
    try {
      const { approval } = await askFirst(
        question,
        rule,
        facts,
        path,
        this.#asking(`Let the agent of ${this.context.run.flow} continue? ${error.message}.`),
      );
      this.#note({ is: 'granted', limit, by: approval.by });
      return true;
    } catch (refused) {
      if (refused instanceof PindroError && refused.code === 'call_not_approved') return false;
      throw refused;
    }
  }

  /** Makes the calls of the last answer, side by side. */
  async #work(): Promise<void> {
    const open = [...this.#talk.open];
    const { context } = this;
    await context.recorder.commit();
    const late = lateFiller(
      this.run.fill,
      () => this.#kept(),
      () => this.#tools,
    );
    const inside = { ...context, succeeded: this.#talk.succeeded, budget: this.#budget, late };
    const place = new Map(this.#made().map(({ id }, index) => [id, index + 1]));
    const records = await Promise.all(
      open.map((call, index) =>
        makeCall(call, {
          ...this.#asking(undefined, inside),
          tools: this.#tools,
          long: this.#long,
          talk: this.#talk,
          rehearsed: this.#rehearsed,
          guarded: this.#guarded(),
          path: `${context.path}/${this.#talk.rounds}.${place.get(call.id)}`,
          before: open.slice(0, index).filter(({ name }) => name === call.name).length,
          begin: async () => this.#note({ is: 'calling', call: call.id }),
        }).then(async (record) => {
          // A parallel call may wait for days, so the result of this one is recorded immediately.
          this.#note({ is: 'result', result: record });
          if (!record.reads) await context.recorder.commit();
          return record;
        }),
      ),
    );
    if (context.signal.aborted) throw context.signal.reason;
    this.#talk.inOrder(records.map(({ call }) => call));
    requireLearning(this.#talk.calls);
  }

  /** Facts for the guards of calls. */
  #guarded() {
    const { instructions, chosenAt, config } = this.run;
    const { abstract, notes, turns } = this.#remembered;
    const before = turns.map(({ text }) => text);
    const memory = [abstract, ...notes.map((note) => JSON.stringify(note)), ...before].filter(Boolean);
    return { instructions: instructions(this.#kept()), memory, message: config.message, chosenAt };
  }

  /** All calls of the last answer. */
  #made() {
    const last = this.#talk.turns.findLast((turn) => turn.role === 'assistant');
    return last?.role === 'assistant' ? last.calls : [];
  }

  #asking(title?: string, context = this.context) {
    const { memory } = this.run;
    const { patience } = this;
    return {
      ...{ context, patience, conversation: memory ?? context.recorder.head.session ?? context.recorder.head.id },
      ...(title !== undefined && { title }),
      waiting: (what: string | null) => {
        this.#waits += what === null ? -1 : 1;
        if (memory && (what !== null || this.#waits === 0)) context.run.ports.memory.hold?.(memory, what);
      },
    };
  }
}

/** Calls with ids of their own: some servers give none, or the same ones again. */
function distinct<T extends { id: string }>(calls: readonly T[]): T[] {
  const seen = new Set<string>();
  return calls.map((call) => {
    let { id } = call;
    for (let times = 2; seen.has(id); times++) id = `${call.id}_${times}`;
    seen.add(id);
    return { ...call, id };
  });
}

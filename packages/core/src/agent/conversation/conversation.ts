import type { ErrorCode } from '../../errors/errors.js';
import type { Json, JsonObject } from '../../json/json.js';
import type { AnswerEnd, Picture, Reasoning, ToolCall, Turn, Usage } from '../../models/dialect.js';
import type { Spending } from '../../tools/budget.js';
import type { ApprovalNote, CallState, Receipt } from '../../trace/receipts/receipt.js';

/** One tool call, as recorded in the conversation, the receipt and the output of the step. */
export interface CallRecord {
  /** By which id the model knows it. */
  call: string;
  tool: string;
  /** As the model asked, or as somebody changed it before it was sent. */
  arguments: Json;
  state: CallState;
  /** What the model reads of it. */
  text: string;
  /** What came back, as data where it is that. */
  data: Json;
  /** Whether the tool is read-only. */
  reads: boolean;
  cost: number;
  run: string | null;
  /** Budget that it and the agents it delegates to used, in addition to its cost. */
  spent?: Spending;
  code?: ErrorCode;
  /** Who approved it. */
  approval?: ApprovalNote;
  /** Why its result is not trusted, where something in it is flagged. */
  flagged?: string;
  pictures?: Picture[];
  /** What is kept of it for the rest of the conversation. */
  kept?: JsonObject;
  /** What the agents did that it handed work to. */
  receipt?: Receipt;
}

/** Events of a conversation, in order. The journal stores them for resuming. */
export type AgentEntry =
  /** It begins: with what is remembered, and with what is asked now. */
  | { is: 'begun'; turns: Turn[] }
  | {
      is: 'answered';
      text: string;
      calls: ToolCall[];
      end: AnswerEnd;
      usage: Usage;
      /** What it cost; null where no price is known. */
      cost: number | null;
      /** Which model connection answered. */
      by: string;
      reasoning?: Reasoning;
    }
  /** A call is about to be made, and may take effect. */
  | { is: 'calling'; call: string }
  | { is: 'result'; result: CallRecord }
  /** Somebody extended a limit. */
  | { is: 'granted'; limit: string; by: string };

/** An active conversation: the state that its entries add up to. */
export class Conversation {
  readonly turns: Turn[] = [];
  readonly calls: CallRecord[] = [];
  readonly usage: Usage = { input: 0, output: 0, cached: 0 };
  rounds = 0;
  /** What its models and tools cost, where that is known. */
  cost = 0;
  begun = false;
  /** How the last answer ended. */
  end: AnswerEnd = 'answer';
  /** How often each limit was raised. */
  readonly granted = new Map<string, number>();
  /** What was kept of results, the latest of each name. */
  kept: JsonObject = {};
  #open: ToolCall[] = [];
  readonly #calling = new Set<string>();

  constructor(entries: Iterable<AgentEntry> = []) {
    for (const entry of entries) this.take(entry);
  }

  take(entry: AgentEntry): void {
    switch (entry.is) {
      case 'begun':
        this.begun = true;
        this.turns.push(...entry.turns);
        return;
      case 'answered': {
        const { text, calls, reasoning, usage, cost, end } = entry;
        this.rounds++;
        this.end = end;
        this.cost += cost ?? 0;
        for (const part of ['input', 'output', 'cached'] as const) this.usage[part] += usage[part];
        this.turns.push({ role: 'assistant', text, calls, ...(reasoning && { reasoning }) });
        this.#open = [...calls];
        this.#calling.clear();
        return;
      }
      case 'calling':
        this.#calling.add(entry.call);
        return;
      case 'result': {
        const { call, tool, text, state, cost, pictures, kept } = entry.result;
        if (kept) this.kept = { ...this.kept, ...kept };
        this.#open = this.#open.filter(({ id }) => id !== call);
        this.cost += cost;
        this.calls.push(entry.result);
        const failed = state !== 'done' && state !== 'waiting';
        this.turns.push({ role: 'tool', call, name: tool, text, failed, ...(pictures && { pictures }) });
        return;
      }
      case 'granted':
        this.granted.set(entry.limit, (this.granted.get(entry.limit) ?? 0) + 1);
    }
  }

  /** Results are in the order of their calls. */
  inOrder(calls: readonly string[]): void {
    const rank = new Map(calls.map((call, index) => [call, index]));
    const sorted = <T>(list: T[], from: number, callOf: (one: T) => string) => {
      const tail = list.splice(from);
      list.push(...tail.sort((a, b) => (rank.get(callOf(a)) ?? 0) - (rank.get(callOf(b)) ?? 0)));
    };
    const answered = this.turns.findLastIndex(({ role }) => role === 'assistant');
    sorted(this.turns, answered + 1, (turn) => (turn.role === 'tool' ? turn.call : ''));
    sorted(this.calls, this.calls.length - calls.length, ({ call }) => call);
  }

  /** Calls of the last answer that have no result yet. */
  get open(): readonly ToolCall[] {
    return this.#open;
  }

  /** Whether a call was begun that has no result. */
  isCalling(id: string): boolean {
    return this.#calling.has(id);
  }

  /** Whether the model has answered with text. */
  get isOver(): boolean {
    const last = this.turns.at(-1);
    return last?.role === 'assistant' && last.calls.length === 0;
  }

  /** What it said last. */
  get answer(): string {
    const last = this.turns.findLast((turn) => turn.role === 'assistant');
    return last?.role === 'assistant' ? last.text : '';
  }

  /** Tools that were called in the conversation, also in what is remembered, and did not fail. */
  get succeeded(): ReadonlySet<string> {
    return new Set(this.turns.flatMap((turn) => (turn.role === 'tool' && !turn.failed ? [turn.name] : [])));
  }
}

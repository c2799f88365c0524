import { EventEmitter } from 'node:events';
import type { ChangingThing, RunSummary } from '@pindro/contract';
import type { LiveEvent } from '@pindro/core';

/** Kinds of things that change and that somebody may be looking at. */
export type Thing = ChangingThing;

/** How a removed thing is deleted, so that it can be restored. */
export interface Gather {
  /** Takes rows out of a table, by the values of columns. @returns how many */
  take(table: string, where: Record<string, unknown>): number;
  /** Puts rows, or with no column a table of that name, out of reach where they stand: there may be many. */
  putAside(table: string, column: string | null, from: string): void;
  /** Only this role may put it back: what only an owner can create, only an owner can restore. */
  needs(role: 'owner'): void;
  /** Displays of this other thing are notified too, now and on restoring. */
  tell(what: Thing, name: string): void;
}

interface Events {
  changed: [what: Thing, name: string];
  /** Inside the transaction: update references to the new name. */
  renamed: [what: Thing, from: string, to: string];
  /** Inside the transaction: remove what belongs to it. */
  removing: [what: Thing, name: string, gather: Gather];
  run: [run: RunSummary];
  /** A client received an error instead of the result of a successful run. */
  withheld: [run: string];
  live: [event: { run: string; trace: string; live: LiveEvent }];
  /** Everything is to be as it was in a folder; the other one has what is now. Unless told, what was taken away since stays so. */
  restore: [folder: string, before: string, reactivate: boolean];
  /** A transaction was rolled back: discard what was read in it. */
  undone: [];
  /** One line for whoever watches the terminal. */
  line: [text: string];
}

/** A unit of work, as the bus sees it. */
interface Transactions {
  /** Does something once what is being done now is on disk; at once where nothing is. */
  afterCommit(act: () => void): void;
  afterRollback(act: () => void): void;
}

/** What happens in the service, for whoever listens: the console, endpoints, the terminal. */
export class Bus extends EventEmitter<Events> {
  #transactions: Transactions | null = null;

  constructor() {
    super();
    this.setMaxListeners(0);
  }

  /** From now on changes are announced once their transaction is on disk, and not at all on rollback. */
  follow(transactions: Transactions): void {
    this.#transactions = transactions;
    transactions.afterRollback(() => this.emit('undone'));
  }

  changed(what: Thing, name: string): void {
    const tell = () => void this.emit('changed', what, name);
    if (this.#transactions) this.#transactions.afterCommit(tell);
    else tell();
  }
}

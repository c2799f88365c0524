import { EventEmitter } from 'node:events';
import type { RunSummary } from '@pindro/contract';
import type { LiveEvent } from '@pindro/core';

/** Kinds of things that change and that somebody may be looking at. */
export type Thing =
  | 'flow'
  | 'endpoint'
  | 'server'
  | 'credential'
  | 'model'
  | 'key'
  | 'table'
  | 'mailbox'
  | 'client'
  | 'approval'
  | 'problem'
  | 'memory'
  | 'entry'
  | 'document'
  | 'person'
  | 'sample'
  | 'filter'
  | 'row'
  /** Which tables there are, and their columns. */
  | 'columns'
  | 'workshop';

/** How a thing that is removed is taken out, so that it can be put back. */
export interface Gather {
  /** Takes rows out of a table, by the values of columns. @returns how many */
  take(table: string, where: Record<string, unknown>): number;
  /** Puts rows, or with no column a table of that name, out of reach where they stand: there may be many. */
  putAside(table: string, column: string | null, from: string): void;
  /** Only this role may put it back: what only an owner can create, only an owner can restore. */
  needs(role: 'owner'): void;
  /** Whoever shows this other thing is told too, now and when all is put back. */
  tell(what: Thing, name: string): void;
}

interface Events {
  changed: [what: Thing, name: string];
  /** Inside of the transaction: whoever keeps the name calls it by the new one. */
  renamed: [what: Thing, from: string, to: string];
  /** Inside of the transaction: whoever keeps what belongs to it takes that out too. */
  removing: [what: Thing, name: string, gather: Gather];
  run: [run: RunSummary];
  /** A client was told an error in place of the result of a run that is done. */
  withheld: [run: string];
  live: [event: { run: string; trace: string; live: LiveEvent }];
  /** Everything is to be as it was in a folder; the other one has what is now. Unless told, what was taken away since stays so. */
  restore: [folder: string, before: string, reactivate: boolean];
  /** What was changed in a transaction has been taken back: nothing that was read in it may be kept. */
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

  /** From now on changes are told once the transaction that made them is on disk, and not at all when it is taken back. */
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

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
  | 'entry'
  | 'document'
  | 'workshop';

interface Events {
  changed: [what: Thing, name: string];
  run: [run: RunSummary];
  live: [event: { run: string; trace: string; live: LiveEvent }];
  /** One line for whoever watches the terminal. */
  line: [text: string];
}

/** What happens in the service, for whoever listens: the console, endpoints, the terminal. */
export class Bus extends EventEmitter<Events> {
  constructor() {
    super();
    this.setMaxListeners(0);
  }

  changed(what: Thing, name: string): void {
    this.emit('changed', what, name);
  }
}

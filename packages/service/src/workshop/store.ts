import { didYouMean, PindroError } from '@pindro/core';
import { eq } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { workshop } from './tables.js';

const ROW = 1;

interface Flows {
  names(): string[];
  get(name: string): unknown;
}

/** Whether the workshop is enabled, and its flows. Disabled by default. */
export class WorkshopStore {
  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
    private readonly flows: Flows,
  ) {
    bus.on('renamed', (what, from, to) => {
      if (what !== 'flow') return;
      const { flows: open } = this.#row();
      const now = open.map((flow) => (flow === from ? to : flow));
      database.update(workshop).set({ flows: now }).where(eq(workshop.id, ROW)).run();
    });
  }

  isOn(): boolean {
    return this.#row().on;
  }

  /** Flows that are open to assistants. One that was removed is none. */
  open(): string[] {
    const known = this.flows.names();
    return this.#row().flows.filter((flow) => known.includes(flow));
  }

  /** @throws not_open_to_assistants, also for a flow that is there but closed: whoever asks need not know of it */
  requireOpen(flow: string): void {
    const open = this.open();
    if (!open.includes(flow))
      throw new PindroError('not_open_to_assistants', { flow, suggestion: didYouMean(flow, open) });
  }

  change({ on, open, close }: { on?: boolean | undefined; open: string[]; close: string[] }): void {
    for (const flow of open) this.flows.get(flow);
    const flows = [...new Set([...this.open(), ...open])].filter((flow) => !close.includes(flow)).sort();
    const values = { on: on ?? this.isOn(), flows };
    this.database
      .insert(workshop)
      .values({ id: ROW, ...values })
      .onConflictDoUpdate({ target: workshop.id, set: values })
      .run();
    this.bus.changed('workshop', 'workshop');
  }

  #row(): { on: boolean; flows: string[] } {
    return this.database.select().from(workshop).get() ?? { on: false, flows: [] };
  }
}

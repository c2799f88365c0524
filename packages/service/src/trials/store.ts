import { didYouMean, type Json, type JsonObject, PindroError } from '@pindro/core';
import { and, asc, eq } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { permitOwnRecord, type SecretPermit } from '../policy/secrets.js';
import { held, samples } from './tables.js';

interface Sealer {
  seal(text: string, name: string): string;
  unseal(sealed: string, permit: SecretPermit): string;
}

export interface HeldResult {
  output: JsonObject;
  branch: string | null;
}

/** What trying out a flow keeps: held results and named inputs. */
export class TrialStore {
  constructor(
    private readonly database: Database,
    private readonly vault: Sealer,
    private readonly bus: Bus,
  ) {
    bus.on('removing', (what, name, { take }) => {
      if (what !== 'flow') return;
      take('held', { flow: name });
      take('samples', { flow: name });
    });
    bus.on('renamed', (what, from, to) => {
      if (what !== 'flow') return;
      database.update(held).set({ flow: to }).where(eq(held.flow, from)).run();
      database.update(samples).set({ flow: to }).where(eq(samples.flow, from)).run();
    });
  }

  hold(flow: string, step: string, run: string, result: HeldResult): void {
    const values = { sealed: this.vault.seal(JSON.stringify(result), 'held'), run, heldAt: Date.now() };
    this.database
      .insert(held)
      .values({ flow, step, ...values })
      .onConflictDoUpdate({ target: [held.flow, held.step], set: values })
      .run();
    this.bus.changed('flow', flow);
  }

  release(flow: string, step: string): void {
    this.database
      .delete(held)
      .where(and(eq(held.flow, flow), eq(held.step, step)))
      .run();
    this.bus.changed('flow', flow);
  }

  /** Which steps are held, from which run, and since when. */
  heldSteps(flow: string): { step: string; run: string; heldAt: number }[] {
    return this.database
      .select({ step: held.step, run: held.run, heldAt: held.heldAt })
      .from(held)
      .where(eq(held.flow, flow))
      .orderBy(asc(held.step))
      .all();
  }

  heldResults(flow: string): Record<string, HeldResult> {
    const rows = this.database.select().from(held).where(eq(held.flow, flow)).all();
    return Object.fromEntries(
      rows.map(({ step, sealed }) => [
        step,
        JSON.parse(this.vault.unseal(sealed, permitOwnRecord('held'))) as HeldResult,
      ]),
    );
  }

  saveSample(flow: string, name: string, input: Json): void {
    const values = { sealed: this.vault.seal(JSON.stringify(input), 'sample'), usedAt: Date.now() };
    this.database
      .insert(samples)
      .values({ flow, name, ...values })
      .onConflictDoUpdate({ target: [samples.flow, samples.name], set: values })
      .run();
  }

  /** @throws already_there */
  renameSample(flow: string, name: string, to: string): void {
    this.requireFree(flow, to);
    this.database
      .update(samples)
      .set({ name: to })
      .where(and(eq(samples.flow, flow), eq(samples.name, name)))
      .run();
  }

  /** @throws already_there */
  copySample(flow: string, name: string, to: string): void {
    this.requireFree(flow, to);
    this.saveSample(flow, to, this.requireSample(flow, name));
  }

  /** @throws already_there */
  requireFree(flow: string, name: string): void {
    if (this.sample(flow, name) !== undefined)
      throw new PindroError('already_there', { what: `saved input of "${flow}"`, name });
  }

  /** @throws not_found */
  requireSample(flow: string, name: string): Json {
    const known = this.samples(flow);
    const found = known.find((sample) => sample.name === name);
    if (found) return found.input;
    const suggestion = didYouMean(
      name,
      known.map((sample) => sample.name),
    );
    throw new PindroError('not_found', { what: `saved input of "${flow}"`, name, suggestion });
  }

  /** The input kept under a name, whole. */
  sample(flow: string, name: string): Json | undefined {
    return this.samples(flow).find((sample) => sample.name === name)?.input;
  }

  samples(flow: string): { name: string; input: Json }[] {
    return this.database
      .select()
      .from(samples)
      .where(eq(samples.flow, flow))
      .orderBy(asc(samples.name))
      .all()
      .map(({ name, sealed }) => ({
        name,
        input: JSON.parse(this.vault.unseal(sealed, permitOwnRecord('sample'))) as Json,
      }));
  }
}

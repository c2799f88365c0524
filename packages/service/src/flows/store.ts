import {
  didYouMean,
  type FlowDocument,
  type FlowPort,
  type Json,
  type JsonObject,
  PindroError,
  requireFlow,
  type Stage,
  type Surroundings,
} from '@pindro/core';
import { and, asc, desc, eq } from 'drizzle-orm';
import { stringify } from 'yaml';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { flows, revisions } from './tables.js';

export interface FlowRecord {
  name: string;
  text: string;
  document: FlowDocument;
  live: number | null;
  updatedAt: number;
}

export class FlowStore implements FlowPort {
  /** Documents as they are run. The engine prepares each object once, so that the same one must be handed out again. */
  readonly #loaded = new Map<string, { document: FlowDocument; revision: number | null }>();

  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
    private readonly around: () => Surroundings,
  ) {}

  names(): string[] {
    return this.database
      .select({ name: flows.name })
      .from(flows)
      .orderBy(asc(flows.name))
      .all()
      .map(({ name }) => name);
  }

  all(): FlowRecord[] {
    return this.database.select().from(flows).orderBy(asc(flows.name)).all() as FlowRecord[];
  }

  get(name: string): FlowRecord {
    const row = this.database.select().from(flows).where(eq(flows.name, name)).get();
    if (!row) throw new PindroError('not_found', { what: 'flow', name, suggestion: didYouMean(name, this.names()) });
    return row as FlowRecord;
  }

  revisions(name: string): { revision: number; publishedAt: number }[] {
    return this.database
      .select({ revision: revisions.revision, publishedAt: revisions.publishedAt })
      .from(revisions)
      .where(eq(revisions.flow, name))
      .orderBy(desc(revisions.revision))
      .all();
  }

  /** Makes a document the draft of the flow it names. @throws flow_invalid with every mistake */
  save(written: string | JsonObject): FlowRecord {
    const document = requireFlow(written, this.around());
    const text = typeof written === 'string' ? written : stringify(written);
    const values = { text, document, updatedAt: Date.now() };
    this.database
      .insert(flows)
      .values({ name: document.name, ...values })
      .onConflictDoUpdate({ target: flows.name, set: values })
      .run();
    this.#loaded.delete(`${document.name}/draft`);
    this.bus.changed('flow', document.name);
    return this.get(document.name);
  }

  /** Makes the draft the live revision; a draft that is live already stays what it is. */
  publish(name: string): { revision: number; fresh: boolean } {
    const flow = this.get(name);
    requireFlow(flow.document as unknown as Json, this.around());
    if (!this.isChanged(flow)) return { revision: flow.live!, fresh: false };
    const revision = (this.revisions(name)[0]?.revision ?? 0) + 1;
    this.database.door
      .transaction(() => {
        this.database
          .insert(revisions)
          .values({ flow: name, revision, text: flow.text, document: flow.document, publishedAt: Date.now() })
          .run();
        this.database.update(flows).set({ live: revision }).where(eq(flows.name, name)).run();
      })
      .immediate();
    this.#loaded.delete(`${name}/live`);
    this.bus.changed('flow', name);
    return { revision, fresh: true };
  }

  /** Whether the draft differs from what is live. */
  isChanged(flow: FlowRecord): boolean {
    if (flow.live === null) return true;
    const live = this.database
      .select({ text: revisions.text })
      .from(revisions)
      .where(and(eq(revisions.flow, flow.name), eq(revisions.revision, flow.live)))
      .get();
    return live?.text !== flow.text;
  }

  async load(name: string, stage: Stage, wanted?: number): Promise<{ document: Json; revision: number | null }> {
    const { document, revision } = this.loadNow(name, stage, wanted);
    return { document: document as unknown as Json, revision };
  }

  /** @param wanted the revision that a run in progress began with */
  loadNow(name: string, stage: Stage, wanted?: number): { document: FlowDocument; revision: number | null } {
    const key = `${name}/${stage}`;
    const known = this.#loaded.get(key);
    if (known && (wanted === undefined || known.revision === wanted)) return known;
    const flow = this.get(name);
    if (wanted !== undefined && wanted !== flow.live)
      return { document: this.#revision(name, wanted), revision: wanted };
    if (stage === 'live' && flow.live === null) throw new PindroError('flow_not_published', { flow: name });
    const loaded =
      stage === 'draft'
        ? { document: flow.document, revision: null }
        : { document: this.#revision(name, flow.live!), revision: flow.live };
    this.#loaded.set(key, loaded);
    return loaded;
  }

  #revision(flow: string, revision: number): FlowDocument {
    const row = this.database
      .select({ document: revisions.document })
      .from(revisions)
      .where(and(eq(revisions.flow, flow), eq(revisions.revision, revision)))
      .get();
    return row!.document as FlowDocument;
  }
}

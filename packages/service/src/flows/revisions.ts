import { type FlowDocument, flowInvalid, PindroError, readDraft, type Stage } from '@pindro/core';
import { and, desc, eq } from 'drizzle-orm';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import type { FlowDrafts, FlowRecord } from './drafts.js';
import { flows, revisions } from './tables.js';

/** What was published of flows, and which revision is live. */
export class FlowRevisions {
  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
    private readonly drafts: FlowDrafts,
  ) {}

  /** Revisions of a flow, the latest first. @throws not_found */
  list(given: string): { revision: number; note: string; publishedAt: number }[] {
    const name = this.drafts.nameOf(given);
    return this.database
      .select({ revision: revisions.revision, note: revisions.note, publishedAt: revisions.publishedAt })
      .from(revisions)
      .where(eq(revisions.flow, name))
      .orderBy(desc(revisions.revision))
      .all();
  }

  /** A revision, the live one, or the draft, as it was written. */
  version(given: string, which: string): { text: string; document: FlowDocument } {
    const name = this.drafts.nameOf(given);
    const flow = this.drafts.get(name);
    if (which === 'draft') return flow;
    if (which === 'live' && flow.live === null)
      throw new PindroError('flow_not_published', { flow: name }, { details: { flow: name } });
    return this.get(name, which === 'live' ? flow.live! : Number(which));
  }

  get(
    given: string,
    revision: number,
  ): { revision: number; note: string; publishedAt: number; text: string; document: FlowDocument } {
    const name = this.drafts.nameOf(given);
    const row = this.database
      .select()
      .from(revisions)
      .where(and(eq(revisions.flow, name), eq(revisions.revision, revision)))
      .get();
    if (!row)
      throw new PindroError('not_found', {
        what: `revision of "${name}"`,
        name: String(revision),
        suggestion: `There are ${
          this.list(name)
            .map((one) => one.revision)
            .join(', ') || 'none'
        }.`,
      });
    return { ...row, document: row.document as FlowDocument };
  }

  /** When what a flow uses was chosen: when its live revision was published, or its draft saved. */
  async chosenAt(given: string, stage: Stage): Promise<number | null> {
    const flow = this.drafts.find(given);
    if (!flow) return null;
    if (stage === 'draft' || flow.live === null) return flow.updatedAt;
    const row = this.database
      .select({ at: revisions.publishedAt })
      .from(revisions)
      .where(and(eq(revisions.flow, flow.name), eq(revisions.revision, flow.live)))
      .get();
    return row?.at ?? null;
  }

  /** Makes an older revision the live one again. The draft stays as it is. */
  activate(given: string, revision: number): void {
    const name = this.drafts.nameOf(given);
    this.get(name, revision);
    this.database.update(flows).set({ live: revision }).where(eq(flows.name, name)).run();
    this.drafts.onChange(name, 'live');
    this.bus.changed('flow', name);
  }

  /** Makes a revision that was published elsewhere the live one. Within a transaction. @throws flow_invalid */
  keepLive(
    given: string,
    { revision, note, publishedAt, text }: { revision: number; note: string; publishedAt: number; text: string },
  ): void {
    const { name, live } = this.drafts.get(given);
    if (live !== null && this.get(name, live).text === text) return;
    const { document, mistakes } = readDraft(text);
    if (!document) throw flowInvalid({ document: null, mistakes, name });
    const known = this.list(name).map((one) => one.revision);
    const number = known.includes(revision) ? Math.max(...known) + 1 : revision;
    this.database.insert(revisions).values({ flow: name, revision: number, text, document, publishedAt, note }).run();
    this.activate(name, number);
  }

  /** Makes the draft the live revision; a draft that is live already stays what it is. */
  publish(given: string, note = ''): { revision: number; fresh: boolean } {
    const flow = this.drafts.get(given);
    const { name } = flow;
    this.drafts.requireSound(flow);
    if (!this.isChanged(flow)) return { revision: flow.live!, fresh: false };
    const revision = (this.list(name)[0]?.revision ?? 0) + 1;
    this.database.driver
      .transaction(() => {
        this.database
          .insert(revisions)
          .values({ flow: name, revision, text: flow.text, document: flow.document, publishedAt: Date.now(), note })
          .run();
        this.database.update(flows).set({ live: revision }).where(eq(flows.name, name)).run();
      })
      .immediate();
    this.drafts.onChange(name, 'live');
    this.bus.changed('flow', name);
    return { revision, fresh: true };
  }

  /** Whether the draft differs from the live revision. Prepared and compared in SQLite: a list asks it of every flow. */
  isChanged({ name, live, text }: FlowRecord): boolean {
    if (live === null) return true;
    const same = 'SELECT text = ? AS same FROM revisions WHERE flow = ? AND revision = ?';
    const found = this.database.driver.prepare(same).get(text, name, live) as { same: number } | undefined;
    return found?.same !== 1;
  }

  /** The document of a revision, to be run. */
  document(flow: string, revision: number): FlowDocument {
    // Prepared: an endpoint loads each of its flows at its first call.
    const query = 'SELECT document FROM revisions WHERE flow = ? AND revision = ?';
    const row = this.database.driver.prepare(query).get(flow, revision) as { document: string };
    const document = JSON.parse(row.document) as FlowDocument;
    // A revision stays as it was written; what runs goes by the present name.
    return document.name === flow ? document : { ...document, name: flow };
  }
}

import {
  ANY_EFFECT,
  effectsOf,
  type FlowDocument,
  type FlowPort,
  flowInvalid,
  type Json,
  PindroError,
  readDraft,
  type Stage,
} from '@pindro/core';
import { and, desc, eq } from 'drizzle-orm';
import { FlowDrafts, type FlowRecord } from './drafts.js';
import { flows, revisions } from './tables.js';

/** Flows: their drafts, what was published of them, and which of it runs. */
export class FlowStore extends FlowDrafts implements FlowPort {
  /** Documents as they are run. The engine prepares each object once, so that the same one must be handed out again. */
  readonly #loaded = new Map<string, { document: FlowDocument; revision: number | null }>();

  protected override unload(name?: string, stage?: Stage): void {
    if (name === undefined) this.#loaded.clear();
    else for (const one of stage ? [stage] : (['draft', 'live'] as const)) this.#loaded.delete(`${name}/${one}`);
  }

  revisions(given: string): { revision: number; note: string; publishedAt: number }[] {
    const name = this.nameOf(given);
    return this.database
      .select({ revision: revisions.revision, note: revisions.note, publishedAt: revisions.publishedAt })
      .from(revisions)
      .where(eq(revisions.flow, name))
      .orderBy(desc(revisions.revision))
      .all();
  }

  /** A revision, the live one, or the draft, as it was written. */
  version(given: string, which: string): { text: string; document: FlowDocument } {
    const name = this.nameOf(given);
    const flow = this.get(name);
    if (which === 'draft') return flow;
    if (which === 'live' && flow.live === null)
      throw new PindroError('flow_not_published', { flow: name }, { details: { flow: name } });
    return this.revision(name, which === 'live' ? flow.live! : Number(which));
  }

  revision(
    given: string,
    revision: number,
  ): { revision: number; note: string; publishedAt: number; text: string; document: FlowDocument } {
    const name = this.nameOf(given);
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
          this.revisions(name)
            .map((one) => one.revision)
            .join(', ') || 'none'
        }.`,
      });
    return { ...row, document: row.document as FlowDocument };
  }

  /** When what a flow uses was chosen: when its live revision was published, or its draft saved. */
  async chosenAt(given: string, stage: Stage): Promise<number | null> {
    const flow = this.find(given);
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
  activateRevision(given: string, revision: number): void {
    const name = this.nameOf(given);
    this.revision(name, revision);
    this.database.update(flows).set({ live: revision }).where(eq(flows.name, name)).run();
    this.unload(name, 'live');
    this.bus.changed('flow', name);
  }

  /** Makes a revision that was published elsewhere the live one. Within a transaction. @throws flow_invalid */
  keepLive(
    given: string,
    { revision, note, publishedAt, text }: { revision: number; note: string; publishedAt: number; text: string },
  ): void {
    const { name, live } = this.get(given);
    if (live !== null && this.revision(name, live).text === text) return;
    const { document, mistakes } = readDraft(text);
    if (!document) throw flowInvalid({ document: null, mistakes, name });
    const known = this.revisions(name).map((one) => one.revision);
    const number = known.includes(revision) ? Math.max(...known) + 1 : revision;
    this.database.insert(revisions).values({ flow: name, revision: number, text, document, publishedAt, note }).run();
    this.activateRevision(name, number);
  }

  /** Makes the draft the live revision; a draft that is live already stays what it is. */
  publish(given: string, note = ''): { revision: number; fresh: boolean } {
    const flow = this.get(given);
    const { name } = flow;
    this.#sound(flow);
    if (!this.isChanged(flow)) return { revision: flow.live!, fresh: false };
    const revision = (this.revisions(name)[0]?.revision ?? 0) + 1;
    this.database.driver
      .transaction(() => {
        this.database
          .insert(revisions)
          .values({ flow: name, revision, text: flow.text, document: flow.document, publishedAt: Date.now(), note })
          .run();
        this.database.update(flows).set({ live: revision }).where(eq(flows.name, name)).run();
      })
      .immediate();
    this.unload(name, 'live');
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

  async load(
    name: string,
    stage: Stage,
    wanted?: number,
  ): Promise<{ document: Json; revision: number | null; reads: boolean }> {
    if (stage === 'draft') await this.look([this.get(name)]);
    const { document, revision } = this.loadNow(name, stage, wanted);
    return { document: document as unknown as Json, revision, reads: onlyReads(document) };
  }

  /** @param wanted the revision that a run in progress began with */
  loadNow(given: string, stage: Stage, wanted?: number): { document: FlowDocument; revision: number | null } {
    const name = this.nameOf(given);
    const key = `${name}/${stage}`;
    const known = this.#loaded.get(key);
    if (known && (wanted === undefined || known.revision === wanted)) return known;
    const flow = this.get(name);
    if (wanted !== undefined && wanted !== flow.live)
      return { document: this.#revision(name, wanted), revision: wanted };
    if (stage === 'live' && flow.live === null)
      throw new PindroError('flow_not_published', { flow: name }, { details: { flow: name } });
    const loaded =
      stage === 'draft'
        ? { document: this.#sound(flow), revision: null }
        : { document: this.#revision(name, flow.live!), revision: flow.live };
    this.#loaded.set(key, loaded);
    return loaded;
  }

  /** A draft may be kept with mistakes, but it does not run with them. */
  #sound(flow: FlowRecord): FlowDocument {
    const mistakes = this.mistakes(flow);
    if (mistakes.length > 0) throw flowInvalid({ document: null, mistakes, name: flow.name });
    return flow.document;
  }

  #revision(flow: string, revision: number): FlowDocument {
    // Prepared: an endpoint loads each of its flows at its first call.
    const query = 'SELECT document FROM revisions WHERE flow = ? AND revision = ?';
    const row = this.database.driver.prepare(query).get(flow, revision) as { document: string };
    const document = JSON.parse(row.document) as FlowDocument;
    // A revision stays as it was written; what runs goes by the present name.
    return document.name === flow ? document : { ...document, name: flow };
  }
}

const reading = new WeakMap<FlowDocument, boolean>();
/** Whether a flow changes nothing by its own steps; what it calls may. */
function onlyReads(document: FlowDocument): boolean {
  let reads = reading.get(document);
  if (reads === undefined) reading.set(document, (reads = !effectsOf(document, () => ANY_EFFECT).writes));
  return reads;
}

import {
  type CheckResult,
  checkFlow,
  countMistakes,
  didYouMean,
  draftSchema,
  type FlowDocument,
  type FlowPort,
  flowInvalid,
  type Json,
  type JsonObject,
  type Mistake,
  mistakesOf,
  PindroError,
  readSource,
  requireFlow,
  rewriteText,
  type Stage,
  type Surroundings,
  sourceOf,
  writeText,
} from '@pindro/core';
import { and, asc, desc, eq } from 'drizzle-orm';
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

  readonly #known = new Map<string, { version: number; mistakes: Mistake[] }>();

  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
    private readonly surroundings: () => Surroundings,
  ) {
    bus.on('undone', () => {
      this.#loaded.clear();
      this.#known.clear();
    });
    // Whether a draft is sound also depends on what it names.
    bus.prependListener('changed', (what) => {
      if (what !== 'flow' && what !== 'table' && what !== 'mailbox' && what !== 'client') this.#known.clear();
    });
  }

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

  revisions(name: string): { revision: number; note: string; publishedAt: number }[] {
    return this.database
      .select({ revision: revisions.revision, note: revisions.note, publishedAt: revisions.publishedAt })
      .from(revisions)
      .where(eq(revisions.flow, name))
      .orderBy(desc(revisions.revision))
      .all();
  }

  /**
   * Keeps a draft as it is, mistakes and all, as long as it can be read at all. A document goes into the text that is
   * there, so that its comments stay.
   * @param version the one it was made from @throws flow_invalid, draft_newer
   */
  saveDraft(name: string, written: string | JsonObject, version?: number): FlowRecord {
    const before = this.names().includes(name) ? this.get(name) : null;
    if (before && version !== undefined && before.updatedAt !== version)
      throw new PindroError('draft_newer', { flow: name });
    const { value, mistakes } = typeof written === 'string' ? readSource(written) : sourceOf(written);
    const parsed = draftSchema.safeParse(value);
    if (mistakes.length > 0 || !parsed.success) {
      const found = mistakes.length > 0 ? mistakes : mistakesOf(parsed.error!, value);
      throw new PindroError(
        'flow_invalid',
        { name, count: countMistakes(found) },
        { mistakes: found, at: found[0]!.at },
      );
    }
    const document = parsed.data;
    if (document.name !== name)
      throw new PindroError(
        'request_invalid',
        { why: `The document names "${document.name}", not "${name}"` },
        { at: '/name' },
      );
    const text =
      typeof written === 'string' ? written : before ? rewriteText(before.text, written) : writeText(written);
    return this.#keep(document, text, before);
  }

  #keep(document: FlowDocument, text: string, before: FlowRecord | null): FlowRecord {
    const values = { text, document, updatedAt: Math.max(Date.now(), (before?.updatedAt ?? 0) + 1) };
    this.database
      .insert(flows)
      .values({ name: document.name, ...values })
      .onConflictDoUpdate({ target: flows.name, set: values })
      .run();
    this.#loaded.delete(`${document.name}/draft`);
    this.bus.changed('flow', document.name);
    return this.get(document.name);
  }

  /** Whether a draft has no mistakes. */
  isSound(flow: FlowRecord): boolean {
    return this.mistakes(flow).length === 0;
  }

  /** The mistakes of a draft. Kept until it, or something it may name, changes. */
  mistakes(flow: FlowRecord): Mistake[] {
    const known = this.#known.get(flow.name);
    if (known?.version === flow.updatedAt) return known.mistakes;
    const { mistakes } = checkFlow(flow.text, this.surroundings());
    this.#known.set(flow.name, { version: flow.updatedAt, mistakes });
    return mistakes;
  }

  remove(name: string): void {
    this.get(name);
    this.database.door
      .transaction(() => {
        this.database.delete(revisions).where(eq(revisions.flow, name)).run();
        this.database.delete(flows).where(eq(flows.name, name)).run();
      })
      .immediate();
    this.#loaded.delete(`${name}/draft`);
    this.#loaded.delete(`${name}/live`);
    this.bus.changed('flow', name);
  }

  /** A revision, the live one, or the draft, as it was written. */
  version(name: string, which: string): { text: string; document: FlowDocument } {
    const flow = this.get(name);
    if (which === 'draft') return flow;
    if (which === 'live' && flow.live === null) throw new PindroError('flow_not_published', { flow: name });
    return this.revision(name, which === 'live' ? flow.live! : Number(which));
  }

  revision(
    name: string,
    revision: number,
  ): { revision: number; note: string; publishedAt: number; text: string; document: FlowDocument } {
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
    return row as never;
  }

  /** Makes an older revision the live one again. The draft stays as it is. */
  makeLive(name: string, revision: number): void {
    this.revision(name, revision);
    this.database.update(flows).set({ live: revision }).where(eq(flows.name, name)).run();
    this.#loaded.delete(`${name}/live`);
    this.bus.changed('flow', name);
  }

  /** Makes a document the draft of the flow it names. @throws flow_invalid with every mistake */
  save(written: string | JsonObject): FlowRecord {
    return this.keepChecked(written, checkFlow(written, this.surroundings()));
  }

  /** Makes a document that has been checked the draft of the flow it names. @throws flow_invalid with every mistake */
  keepChecked(written: string | JsonObject, checked: CheckResult): FlowRecord {
    if (!checked.document) throw flowInvalid(checked);
    const { document } = checked;
    const text = typeof written === 'string' ? written : writeText(written);
    const before = this.names().includes(document.name) ? this.get(document.name) : null;
    const kept = this.#keep(document, text, before);
    this.#known.set(kept.name, { version: kept.updatedAt, mistakes: [] });
    return kept;
  }

  /** Makes the draft the live revision; a draft that is live already stays what it is. */
  publish(name: string, note = ''): { revision: number; fresh: boolean } {
    const flow = this.get(name);
    requireFlow(flow.text, this.surroundings());
    if (!this.isChanged(flow)) return { revision: flow.live!, fresh: false };
    const revision = (this.revisions(name)[0]?.revision ?? 0) + 1;
    this.database.door
      .transaction(() => {
        this.database
          .insert(revisions)
          .values({ flow: name, revision, text: flow.text, document: flow.document, publishedAt: Date.now(), note })
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
        ? { document: this.#sound(flow), revision: null }
        : { document: this.#revision(name, flow.live!), revision: flow.live };
    this.#loaded.set(key, loaded);
    return loaded;
  }

  /** A draft may be kept with mistakes, but it does not run with them. */
  #sound(flow: FlowRecord): FlowDocument {
    return requireFlow(flow.text, this.surroundings());
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

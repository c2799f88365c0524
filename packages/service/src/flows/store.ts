import {
  type CheckResult,
  checkFlow,
  type Draft,
  didYouMean,
  type FlowDocument,
  type FlowPort,
  flowInvalid,
  type Json,
  type JsonObject,
  type Mistake,
  namesAny,
  PindroError,
  type References,
  readDraft,
  type Stage,
  type Surroundings,
  withColumnNames,
  withNewName,
  writeText,
} from '@pindro/core';
import { and, asc, desc, eq, sql } from 'drizzle-orm';
import type { FormerNames } from '../objects/former-names.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { isLong } from '../platform/work-thread.js';
import type { FlowChecker } from './checker.js';
import type { DrawnDraft } from './drawing.js';
import { flows, revisions } from './tables.js';

export interface FlowRecord {
  name: string;
  text: string;
  document: FlowDocument;
  live: number | null;
  updatedAt: number;
}

/** Drafts that follow a new name, by their own, and how they are kept. */
export interface Following {
  flows: string[];
  keep(): void;
}

export class FlowStore implements FlowPort {
  /** Documents as they are run. The engine prepares each object once, so that the same one must be handed out again. */
  readonly #loaded = new Map<string, { document: FlowDocument; revision: number | null }>();

  readonly #known = new Map<string, { version: number; mistakes: Mistake[] }>();
  /** Counts how often what a flow may name has changed. */
  #era = 0;

  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
    private readonly surroundings: () => Surroundings,
    private readonly checker: FlowChecker,
    private readonly former: FormerNames,
  ) {
    bus.on('undone', () => {
      this.#loaded.clear();
      this.#forget();
    });
    bus.on('removing', (what, name, { take, putAside }) => {
      if (what !== 'flow') return;
      take('flows', { name });
      putAside('revisions', 'flow', name);
      this.#gone(name);
    });
    // Whether a draft is sound also depends on what it names.
    bus.prependListener('changed', (what) => {
      if (what !== 'flow' && what !== 'table' && what !== 'mailbox' && what !== 'client') this.#forget();
    });
  }

  #forget(): void {
    this.#known.clear();
    this.#era++;
  }

  names(): string[] {
    return this.database
      .select({ name: flows.name })
      .from(flows)
      .orderBy(asc(flows.name))
      .all()
      .map(({ name }) => name);
  }

  /** The same, and the names they went by. */
  allNames(): string[] {
    return [...this.names(), ...this.former.all('flow')];
  }

  all(): FlowRecord[] {
    return this.database.select().from(flows).orderBy(asc(flows.name)).all() as FlowRecord[];
  }

  get(name: string): FlowRecord {
    const flow = this.find(name);
    if (!flow) throw new PindroError('not_found', { what: 'flow', name, suggestion: didYouMean(name, this.names()) });
    return flow;
  }

  /** What the flow of a name, or a former one, is called now. */
  nameOf(given: string): string {
    return this.former.present('flow', given);
  }

  find(given: string): FlowRecord | null {
    const name = this.nameOf(given);
    return (this.database.select().from(flows).where(eq(flows.name, name)).get() as FlowRecord | undefined) ?? null;
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

  /**
   * Keeps a draft as it is, mistakes and all, as long as it can be read at all. A document goes into the text that is
   * there, so that its comments stay.
   * @param version the one it was made from @returns with the JSON of how it is drawn @throws flow_invalid, draft_newer
   */
  async saveDraft(
    name: string,
    written: string | JsonObject,
    version?: number,
  ): Promise<{ flow: FlowRecord; preview: string }> {
    for (;;) {
      this.requireVersion(name, version);
      const before = this.find(name);
      const era = this.#era;
      const { draft, preview } = await this.draw(name, written);
      // Whoever saved meanwhile is not written over unread.
      if (this.find(name)?.updatedAt !== before?.updatedAt) continue;
      const isNow = era === this.#era;
      const flow = this.keepDraft(name, draft);
      if (isNow) this.#known.set(name, { version: flow.updatedAt, mistakes: draft.mistakes });
      return { flow, preview };
    }
  }

  /** Makes a draft out of the text of another one. @throws already_there */
  async copyDraft(text: string, document: FlowDocument): Promise<FlowRecord> {
    const { draft } = await this.checker.draw(document as unknown as JsonObject, this.surroundings(), text);
    this.requireFresh(document.name);
    return this.keepDraft(document.name, draft);
  }

  /** Reads and draws what is to become the draft of a flow. */
  draw(name: string, written: string | JsonObject): Promise<DrawnDraft> {
    return this.checker.draw(written, this.surroundings(), this.find(name)?.text);
  }

  /** @throws draft_newer when somebody has saved since then */
  requireVersion(name: string, version: number | undefined): void {
    const flow = version === undefined ? null : this.find(name);
    if (flow && flow.updatedAt !== version) throw new PindroError('draft_newer', { flow: name });
  }

  /** Keeps a draft that has been read. @throws flow_invalid, draft_newer */
  keepDraft(name: string, draft: Draft, version?: number): FlowRecord {
    this.requireVersion(name, version);
    const { document, mistakes } = draft;
    if (!document) throw flowInvalid({ document: null, mistakes, name });
    if (document.name !== name)
      throw new PindroError(
        'request_invalid',
        { why: `The document names "${document.name}", not "${name}"` },
        { at: '/name' },
      );
    return this.#keep(document, draft.text, this.find(name));
  }

  #keep(document: FlowDocument, text: string, before: FlowRecord | null): FlowRecord {
    this.former.requireFree('flow', 'flow', document.name);
    const values = { text, document, updatedAt: Math.max(Date.now(), (before?.updatedAt ?? 0) + 1) };
    this.database
      .insert(flows)
      .values({ name: document.name, ...values })
      // By reference: a long document is not written out twice.
      .onConflictDoUpdate({
        target: flows.name,
        set: { text: sql`excluded.text`, document: sql`excluded.document`, updatedAt: sql`excluded.updated_at` },
      })
      .run();
    this.#loaded.delete(`${document.name}/draft`);
    // Others may name it.
    if (!before) this.#forget();
    this.bus.changed('flow', document.name);
    return { name: document.name, live: before?.live ?? null, ...values };
  }

  /** Whether a draft has no mistakes. */
  isSound(flow: FlowRecord): boolean {
    return this.mistakes(flow).length === 0;
  }

  /** The mistakes of a draft. Kept until it, or something it may name, changes. */
  mistakes(flow: FlowRecord): Mistake[] {
    const known = this.#known.get(flow.name);
    if (known?.version === flow.updatedAt) return known.mistakes;
    // Where they stand in a long text is told by `look`; reading it here would keep everybody waiting.
    const { mistakes } = checkFlow(
      isLong(flow.text) ? (flow.document as unknown as Json) : flow.text,
      this.surroundings(),
    );
    this.#known.set(flow.name, { version: flow.updatedAt, mistakes });
    return mistakes;
  }

  /** Looks for the mistakes of drafts in a thread where that takes a while, so that they are known when asked for. */
  async look(drafts: readonly FlowRecord[]): Promise<void> {
    for (const { name, text, updatedAt } of drafts) {
      if (this.#known.get(name)?.version === updatedAt || !isLong(text)) continue;
      const era = this.#era;
      const mistakes = await this.checker.check(text, this.surroundings()).then(
        (checked) => checked.mistakes,
        // One flow that cannot be checked must not keep the others from being shown.
        (error) => (isPassing(error) ? null : [mistakeOf(error)]),
      );
      if (mistakes && era === this.#era) this.#known.set(name, { version: updatedAt, mistakes });
    }
  }

  /** A flow has been taken out, or put back. */
  #gone(name: string): void {
    this.#loaded.delete(`${name}/draft`);
    this.#loaded.delete(`${name}/live`);
    this.#forget();
  }

  /** Makes the draft of a flow that is not there yet. @throws already_there */
  requireFresh(name: string): void {
    if (this.find(name)) throw new PindroError('already_there', { what: 'flow', name });
  }

  /**
   * What calling a thing by a new name changes in drafts. Nothing is kept before `keep` is called, which refuses when
   * somebody saved one of them meanwhile.
   * @param own the flow that itself is renamed, and then calls itself so
   * @throws draft_newer
   */
  async following(sort: keyof References, names: readonly string[], to: string, own?: string): Promise<Following> {
    const all = new Set(names);
    const { drafts, flows: following } = await this.#redrawn((flow) => {
      const document = namesAny(flow.document, sort, all) ? withNewName(flow.document, sort, all, to) : null;
      return flow.name === own ? { ...(document ?? flow.document), name: to } : document;
    });
    const keep = () => {
      for (const { flow } of drafts) this.requireVersion(flow.name, flow.updatedAt);
      if (own !== undefined) this.#callOtherwise(own, to);
      this.#keepAll(drafts);
    };
    return { flows: following.filter((name) => name !== own), keep };
  }

  /** As {@link following}, for new names of a table's columns. @param tables its names */
  async followingColumns(tables: readonly string[], names: Record<string, string>): Promise<Following> {
    const all = new Set(tables);
    const { drafts, flows } = await this.#redrawn((flow) => withColumnNames(flow.document, all, names));
    return {
      flows,
      keep: () => {
        for (const { flow } of drafts) this.requireVersion(flow.name, flow.updatedAt);
        this.#keepAll(drafts);
      },
    };
  }

  /** Drafts as a change would have them; those that it leaves alone are left out. */
  async #redrawn(
    change: (flow: FlowRecord) => FlowDocument | null,
  ): Promise<{ drafts: { flow: FlowRecord; draft: Draft }[]; flows: string[] }> {
    const drafts: { flow: FlowRecord; draft: Draft }[] = [];
    for (const flow of this.all()) {
      const document = change(flow);
      if (!document) continue;
      const { draft } = await this.checker.draw(document as unknown as JsonObject, this.surroundings(), flow.text);
      drafts.push({ flow, draft });
    }
    return { drafts, flows: drafts.map(({ flow }) => flow.name) };
  }

  #keepAll(drafts: readonly { flow: FlowRecord; draft: Draft }[]): void {
    for (const { flow, draft } of drafts)
      if (draft.document) this.#keep(draft.document, draft.text, { ...flow, name: draft.document.name });
  }

  #callOtherwise(from: string, to: string): void {
    this.database.update(flows).set({ name: to }).where(eq(flows.name, from)).run();
    this.database.update(revisions).set({ flow: to }).where(eq(revisions.flow, from)).run();
    this.former.renamed('flow', from, to);
    this.#gone(from);
    this.bus.changed('flow', to);
  }

  /** A revision, the live one, or the draft, as it was written. */
  version(given: string, which: string): { text: string; document: FlowDocument } {
    const name = this.nameOf(given);
    const flow = this.get(name);
    if (which === 'draft') return flow;
    if (which === 'live' && flow.live === null) throw new PindroError('flow_not_published', { flow: name });
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
    return row as never;
  }

  /** Makes an older revision the live one again. The draft stays as it is. */
  makeLive(given: string, revision: number): void {
    const name = this.nameOf(given);
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
    const kept = this.#keep(document, text, this.find(document.name));
    this.#known.set(kept.name, { version: kept.updatedAt, mistakes: [] });
    return kept;
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
    this.makeLive(name, number);
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
    if (stage === 'draft') await this.look([this.get(name)]);
    const { document, revision } = this.loadNow(name, stage, wanted);
    return { document: document as unknown as Json, revision };
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
    const mistakes = this.mistakes(flow);
    if (mistakes.length > 0) throw flowInvalid({ document: null, mistakes, name: flow.name });
    return flow.document;
  }

  #revision(flow: string, revision: number): FlowDocument {
    const row = this.database
      .select({ document: revisions.document })
      .from(revisions)
      .where(and(eq(revisions.flow, flow), eq(revisions.revision, revision)))
      .get();
    const document = row!.document as FlowDocument;
    // A revision stays as it was written; what runs goes by the present name.
    return document.name === flow ? document : { ...document, name: flow };
  }
}

/** Whether it only was not its turn: the next look may find more. */
const isPassing = (error: unknown) => error instanceof PindroError && error.code === 'documents_busy';

/** That a flow could not be checked, as its mistake. What nobody foresaw is thrown on. */
function mistakeOf(error: unknown): Mistake {
  if (!(error instanceof PindroError)) throw error;
  return { at: '', message: error.message, hint: error.hint };
}

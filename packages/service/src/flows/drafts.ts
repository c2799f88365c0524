import {
  asJson,
  type CheckResult,
  checkFlow,
  type Draft,
  didYouMean,
  type FlowDocument,
  flowInvalid,
  giveWay,
  type JsonObject,
  letOthers,
  type Mistake,
  namesAny,
  PindroError,
  type References,
  type Stage,
  type Surroundings,
  withColumnNames,
  withNewName,
  writeText,
} from '@pindro/core';
import { and, asc, eq, sql } from 'drizzle-orm';
import type { FormerNames } from '../objects/former-names.js';
import type { Database } from '../platform/database/open.js';
import type { Bus, Thing } from '../platform/events.js';
import { isLong } from '../platform/work-thread.js';
import type { FlowChecker } from './checker.js';
import type { DrawnDraft, Written } from './drawing.js';
import { flows, revisions } from './tables.js';
import { mistakeOf } from './work.js';

/** Kinds of things whose change may make a draft sound, or no longer. */
const NAMED: ReadonlySet<Thing> = new Set(['endpoint', 'server', 'credential', 'model', 'columns']);

/** Up to this many short drafts are checked in the event loop. */
const FEW = 10;
/** More are checked in the thread, in batches of this size. */
const MANY = 50;

export interface FlowRecord {
  name: string;
  text: string;
  document: FlowDocument;
  live: number | null;
  updatedAt: number;
}

type FlowHead = Pick<FlowRecord, 'name' | 'live' | 'updatedAt'>;

/** Drafts that follow a new name, by their own, and how they are kept. */
export interface Following {
  flows: string[];
  keep(): void;
}

/** What is drawn of flows: kept with its mistakes, checked, and following new names. */
export class FlowDrafts {
  readonly #known = new Map<string, { version: number; mistakes: Mistake[] }>();
  /** Counts how often what a flow may name has changed. */
  #era = 0;
  /** Built once: each run begins with it. */
  readonly #byName: { get(values: { name: string }): unknown };
  readonly #withTools: { get(values: { name: string }): { document: unknown } | undefined };

  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
    private readonly surroundings: () => Surroundings,
    private readonly checker: FlowChecker,
    private readonly former: FormerNames,
  ) {
    const named = eq(flows.name, sql.placeholder('name'));
    this.#byName = database.select().from(flows).where(named).prepare();
    const hasTools = sql`instr(${flows.document}, '"toolbox"') > 0`;
    this.#withTools = database.select({ document: flows.document }).from(flows).where(and(named, hasTools)).prepare();
    bus.on('undone', () => {
      this.onChange();
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
      if (NAMED.has(what)) this.#forget();
      else if (what === 'flow') this.#around = null;
    });
  }

  /** What flows may name, put together once until something of it changes. */
  #around: Surroundings | null = null;
  #surroundingsNow(): Surroundings {
    this.#around ??= this.surroundings();
    return this.#around;
  }

  #forget(): void {
    this.#known.clear();
    this.#around = null;
    this.#era++;
  }

  /** Called when documents that were loaded are no longer what is stored: of one flow, or all. */
  onChange: (name?: string, stage?: Stage) => void = () => {};

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

  /** What a flow is without its text and document, which may be long. */
  #head(given: string): FlowHead | null {
    const name = this.nameOf(given);
    const { live, updatedAt } = flows;
    return (
      this.database.select({ name: flows.name, live, updatedAt }).from(flows).where(eq(flows.name, name)).get() ?? null
    );
  }

  /** The document of a draft that has agents with tools; null for any other, which is not read. */
  documentWithTools(name: string): FlowDocument | null {
    return (this.#withTools.get({ name })?.document as FlowDocument | undefined) ?? null;
  }

  find(given: string): FlowRecord | null {
    const name = this.nameOf(given);
    return (this.#byName.get({ name }) as FlowRecord | undefined) ?? null;
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
      const before = this.#head(name);
      const era = this.#era;
      const { draft, preview } = await this.draw(name, written);
      // A newer draft is not overwritten.
      if (this.#head(name)?.updatedAt !== before?.updatedAt) continue;
      const isNow = era === this.#era;
      const flow = this.keepDraft(name, draft);
      if (isNow) this.#known.set(name, { version: flow.updatedAt, mistakes: draft.mistakes });
      return { flow, preview };
    }
  }

  /** Makes a draft out of the text of another one. @throws already_there */
  async copyDraft(text: string, document: FlowDocument): Promise<FlowRecord> {
    const { draft } = await this.checker.draw(asJson(document), this.surroundings(), text);
    this.requireFresh(document.name);
    return this.keepDraft(document.name, draft);
  }

  /** Reads and draws what is to become the draft of a flow. */
  draw(name: string, written: string | JsonObject): Promise<DrawnDraft> {
    return this.checker.draw(written, this.surroundings(), this.find(name)?.text);
  }

  /** @throws draft_newer when somebody has saved since then */
  requireVersion(name: string, version: number | undefined): void {
    const flow = version === undefined ? null : this.#head(name);
    if (flow && flow.updatedAt !== version) throw new PindroError('draft_newer', { flow: name });
  }

  /** Keeps a draft that has been read. @throws flow_invalid, draft_newer */
  keepDraft(name: string, draft: Draft & Written, version?: number): FlowRecord {
    this.requireVersion(name, version);
    const { document, mistakes } = draft;
    if (!document) throw flowInvalid({ document: null, mistakes, name });
    if (document.name !== name)
      throw new PindroError(
        'request_invalid',
        { why: `The document has the name "${document.name}", not "${name}"` },
        { at: '/name' },
      );
    return this.#keep(document, draft.text, this.#head(name), draft);
  }

  #keep(document: FlowDocument, text: string, before: FlowHead | null, { json }: Written = {}): FlowRecord {
    this.former.requireFree('flow', 'flow', document.name);
    const values = { text, document, updatedAt: Math.max(Date.now(), (before?.updatedAt ?? 0) + 1) };
    this.database
      .insert(flows)
      .values({ name: document.name, ...values, ...(json !== undefined && { document: sql`${json}` }) })
      // By reference: a long document is not written out twice.
      .onConflictDoUpdate({
        target: flows.name,
        set: { text: sql`excluded.text`, document: sql`excluded.document`, updatedAt: sql`excluded.updated_at` },
      })
      .run();
    this.onChange(document.name, 'draft');
    // Others may name it.
    if (!before) this.#forget();
    this.bus.changed('flow', document.name);
    return { name: document.name, live: before?.live ?? null, ...values };
  }

  /** The document of a draft: it may be kept with mistakes, but it does not run with them. @throws flow_invalid */
  requireSound(flow: FlowRecord): FlowDocument {
    const mistakes = this.mistakes(flow);
    if (mistakes.length > 0) throw flowInvalid({ document: null, mistakes, name: flow.name });
    return flow.document;
  }

  /** Whether a draft has no mistakes. */
  isSound(flow: FlowRecord): boolean {
    return this.mistakes(flow).length === 0;
  }

  /** The mistakes of a draft. Kept until it, or something it may name, changes. */
  mistakes(flow: FlowRecord): Mistake[] {
    const known = this.#known.get(flow.name);
    if (known?.version === flow.updatedAt) return known.mistakes;
    // `look` locates mistakes in long texts; parsing here would block.
    const { mistakes } = checkFlow(isLong(flow.text) ? asJson(flow.document) : flow.text, this.#surroundingsNow());
    this.#known.set(flow.name, { version: flow.updatedAt, mistakes });
    return mistakes;
  }

  /** Looks for the mistakes of drafts in a thread where that takes a while, so that they are known when asked for. */
  async look(drafts: readonly FlowRecord[]): Promise<void> {
    await this.#lookAtMany(drafts.filter((draft) => !this.#isKnown(draft) && !isLong(draft.text)));
    for (const draft of drafts) {
      const { name, text, updatedAt } = draft;
      if (this.#isKnown(draft)) continue;
      if (!isLong(text)) {
        this.mistakes(draft);
        await giveWay();
        continue;
      }
      const era = this.#era;
      const mistakes = await this.checker.check(text, this.#surroundingsNow()).then(
        (checked) => checked.mistakes,
        // One flow that cannot be checked must not keep the others from being shown.
        (error) => (isPassing(error) ? null : [mistakeOf(error)]),
      );
      if (mistakes && era === this.#era) this.#known.set(name, { version: updatedAt, mistakes });
    }
  }

  #isKnown({ name, updatedAt }: FlowRecord): boolean {
    return this.#known.get(name)?.version === updatedAt;
  }

  /** Checks many short drafts in the thread: hundreds take a second together. */
  async #lookAtMany(drafts: readonly FlowRecord[]): Promise<void> {
    if (drafts.length <= FEW) return;
    const era = this.#era;
    const surroundings = this.#surroundingsNow();
    for (let from = 0; from < drafts.length; from += MANY) {
      await letOthers();
      const some = drafts.slice(from, from + MANY);
      const texts = some.map(({ text }) => text);
      const found = await this.checker.checkEach(texts, surroundings).catch((error) => {
        if (isPassing(error)) return null;
        throw error;
      });
      // What they may name has changed: the caller checks them again.
      if (!found || era !== this.#era) return;
      some.forEach(({ name, updatedAt }, at) => {
        this.#known.set(name, { version: updatedAt, mistakes: found[at]! });
      });
    }
  }

  /** A flow was removed or restored. */
  #gone(name: string): void {
    this.onChange(name);
    this.#forget();
  }

  /** Makes the draft of a flow that is not there yet. @throws already_there */
  requireFresh(name: string): void {
    if (this.#head(name)) throw new PindroError('already_there', { what: 'flow', name });
  }

  /**
   * Renames a thing in drafts. Nothing is saved before `keep`, which fails if somebody saved one of them.
   * @param own the flow that is renamed itself
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

  /** Changed drafts only. */
  async #redrawn(
    change: (flow: FlowRecord) => FlowDocument | null,
  ): Promise<{ drafts: { flow: FlowRecord; draft: Draft }[]; flows: string[] }> {
    const drafts: { flow: FlowRecord; draft: Draft }[] = [];
    for (const flow of this.all()) {
      const document = change(flow);
      if (!document) continue;
      const { draft } = await this.checker.draw(asJson(document), this.surroundings(), flow.text);
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

  /** Makes a document the draft of the flow it names. @throws flow_invalid with every mistake */
  save(written: string | JsonObject): FlowRecord {
    return this.keepChecked(written, checkFlow(written, this.surroundings()));
  }

  /** Makes a document that has been checked the draft of the flow it names. @throws flow_invalid with every mistake */
  keepChecked(written: string | JsonObject, checked: CheckResult & Written): FlowRecord {
    if (!checked.document) throw flowInvalid(checked);
    const { document } = checked;
    const text = typeof written === 'string' ? written : writeText(written);
    const kept = this.#keep(document, text, this.#head(document.name), checked);
    this.#known.set(kept.name, { version: kept.updatedAt, mistakes: [] });
    return kept;
  }
}

/** Whether it only was not its turn: the next look may find more. */
const isPassing = (error: unknown) => error instanceof PindroError && error.code === 'documents_busy';

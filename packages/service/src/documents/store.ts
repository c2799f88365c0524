import type { ApiDocument, ApiUpdate, ImportedDocument } from '@pindro/contract';
import {
  type ApiDescription,
  asJson,
  checkFlow,
  didYouMean,
  type FetchPort,
  type FlowDocument,
  flowNameOf,
  flowOfOperation,
  giveWay,
  humanSize,
  mergeUpdate,
  PindroError,
  withoutEnd,
} from '@pindro/core';
import { asc, eq } from 'drizzle-orm';
import type { FlowStore } from '../flows/store.js';
import type { FormerNames } from '../objects/former-names.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { requireAddress, requireName } from '../platform/names.js';
import { WorkThread } from '../platform/work-thread.js';
import { documents } from './tables.js';
import type { documentWork } from './work.js';

/** Documents may be so large, in bytes. */
const LARGEST = 10 * 1024 * 1024;
const PATIENCE = 15_000;

interface Source {
  url?: string | undefined;
  text?: string | undefined;
}
/** The flow made from each operation, and the document as it was made. */
type Made = Record<string, { flow: string; document: FlowDocument }>;
type Row = typeof documents.$inferSelect;

/** OpenAPI documents that flows were made from. */
export class DocumentStore {
  readonly #reader = new WorkThread<typeof documentWork>(
    new URL('./work-thread.js', import.meta.url),
    (limit) => new PindroError('document_unreadable', { why: `reading it takes more than ${limit}` }),
  );

  constructor(
    private readonly database: Database,
    private readonly flows: FlowStore,
    private readonly bus: Bus,
    private readonly webFetch: FetchPort,
    private readonly former: FormerNames,
  ) {
    bus.on('removing', (what, name, { take }) => {
      if (what === 'document') take('documents', { name });
    });
    bus.on('renamed', (what, from, to) => {
      if (what === 'credential')
        database.update(documents).set({ credential: to }).where(eq(documents.credential, from)).run();
      if (what === 'flow') this.#followFlow(from, to);
    });
  }

  /** A flow that was made of a document goes by another name. */
  #followFlow(from: string, to: string): void {
    for (const { name, made } of this.database.select().from(documents).all()) {
      const now = Object.entries(made as Made).map(([id, one]) => [
        id,
        one.flow === from ? { flow: to, document: { ...one.document, name: to } } : one,
      ]);
      if (Object.values(made as Made).some(({ flow }) => flow === from))
        this.database
          .update(documents)
          .set({ made: Object.fromEntries(now) })
          .where(eq(documents.name, name))
          .run();
    }
  }

  usersOf(credential: string): string[] {
    return this.list()
      .filter((one) => one.credential === credential)
      .map(({ name }) => `OpenAPI document "${name}"`);
  }

  get(name: string): ImportedDocument {
    return summary(this.#row(name));
  }

  /** Changes its address and the settings of flows created from it later. Omitted parts remain. */
  change(
    given: string,
    change: { url?: string | null | undefined; base?: string | undefined; credential?: string | null | undefined },
  ): ImportedDocument {
    const { name, ...before } = this.#row(given);
    const url = change.url === undefined ? before.url : change.url && requireAddress(change.url);
    const base = change.base === undefined ? before.base : baseOf(change.base);
    const credential = change.credential === undefined ? before.credential : change.credential;
    this.database.update(documents).set({ url, base, credential }).where(eq(documents.name, name)).run();
    this.bus.changed('document', name);
    return this.get(name);
  }

  /** All of them as they are kept. */
  written(): Row[] {
    return this.database.select().from(documents).orderBy(asc(documents.name)).all();
  }

  /** Makes a document what a file says of it. */
  keepWritten({ name, ...values }: Omit<Row, 'readAt'>): void {
    requireName(name, 'document');
    const all = { ...values, readAt: Date.now() };
    this.database
      .insert(documents)
      .values({ name, ...all })
      .onConflictDoUpdate({ target: documents.name, set: all })
      .run();
    this.bus.changed('document', name);
  }

  /** Gives the row its new name. */
  callOtherwise(from: string, to: string): void {
    this.database.update(documents).set({ name: to }).where(eq(documents.name, from)).run();
  }

  /** @param wanted ids of the operations of which more is needed than that they are there */
  async read(source: Source, wanted: string[] = []): Promise<ApiDescription> {
    return this.#reader.ask('read', await this.#text(source), wanted, source.url);
  }

  close(): void {
    this.#reader.close();
  }

  present(description: ApiDescription, prefix: string): ApiDocument {
    const { title, version, bases, security, operations } = description;
    const taken = this.flows.drafts.names();
    return {
      title,
      version,
      bases,
      credential: security?.words ?? null,
      header: security?.header ?? null,
      operations: operations.map((operation) => {
        const flow = flowNameOf(prefix, operation);
        const { id, method, path, title: words, trouble } = operation;
        return { id, method, path, title: words, flow, made: taken.includes(flow), trouble };
      }),
    };
  }

  list(): ImportedDocument[] {
    return this.database.select().from(documents).orderBy(asc(documents.name)).all().map(summary);
  }

  names(): string[] {
    return this.list().map((one) => one.name);
  }

  #row(given: string): Row {
    const name = this.former.present('document', given);
    const row = this.database.select().from(documents).where(eq(documents.name, name)).get();
    if (row) return row;
    const names = this.list().map((one) => one.name);
    throw new PindroError('not_found', { what: 'OpenAPI document', name, suggestion: didYouMean(name, names) });
  }

  /**
   * Makes a flow of each chosen operation. None is made when one of the names is taken, or one makes no sound flow.
   * @param check refuses their names before anything is changed
   */
  async take(
    given: Source & { name: string; operations: string[]; base?: string | undefined; credential?: string | undefined },
    check: (flows: string[]) => void = () => {},
  ): Promise<{ document: ImportedDocument; flows: string[] }> {
    requireName(given.name, 'document');
    this.former.requireFree('document', 'OpenAPI document', given.name);
    const description = await this.read(given, given.operations);
    const base = baseOf(given.base ?? description.bases[0]);
    const known = this.list().find((one) => one.name === given.name);
    const before = known ? (this.#row(given.name).made as Made) : {};
    const made: Made = { ...before };
    const fresh: FlowDocument[] = [];
    for (const id of given.operations) {
      await giveWay();
      const operation = description.operations.find((one) => one.id === id);
      if (!operation)
        throw new PindroError('not_found', {
          what: 'operation',
          name: id,
          suggestion: didYouMean(
            id,
            description.operations.map((one) => one.id),
          ),
        });
      if (operation.trouble)
        throw new PindroError('request_invalid', { why: `"${id}" cannot become a flow: ${operation.trouble}` });
      const flow = flowNameOf(given.name, operation);
      const taken = this.flows.drafts.names().includes(flow);
      if (taken && before[id]) continue;
      if (taken) throw new PindroError('already_there', { what: 'flow', name: flow });
      const document = flowOfOperation(operation, { name: flow, base, credential: given.credential ?? null });
      made[id] = { flow, document };
      fresh.push(document);
    }
    const flows = given.operations.map((id) => made[id]!.flow);
    check(flows);
    // One that cannot be made refuses all of them, before anything is changed.
    for (const document of fresh) await this.#requireSound(document, made);
    // Kept first: what a crash leaves out is made when they are taken again.
    this.#keep(given, description, base, given.credential ?? null, made);
    for (const document of fresh) {
      await giveWay();
      this.flows.drafts.save(asJson(document));
    }
    return { document: summary(this.#row(given.name)), flows };
  }

  /** @throws request_invalid when an operation makes no sound flow */
  async #requireSound(document: FlowDocument, made: Made): Promise<void> {
    await giveWay();
    const [mistake] = checkFlow(document).mistakes;
    if (!mistake) return;
    const id = Object.keys(made).find((one) => made[one]!.document === document) ?? document.name;
    throw new PindroError('request_invalid', {
      why: `Operation "${id}" cannot become a flow: ${mistake.message} at ${mistake.at}. Nothing was changed`,
      fix: 'Exclude this operation, or correct it in the document.',
    });
  }

  /** What a newer document changes. With `apply` the flows take it over, except where the builder has edited the same. */
  async update(
    name: string,
    source: Source,
    apply: boolean,
  ): Promise<{ document: ImportedDocument; items: ApiUpdate[]; description: ApiDescription }> {
    const row = this.#row(name);
    const { name: own } = row;
    const where = source.url || source.text ? source : { url: row.url ?? undefined };
    const made = { ...(row.made as Made) };
    const description = await this.read(where, Object.keys(made));
    const items: ApiUpdate[] = [];
    for (const [id, { flow, document }] of Object.entries(made)) {
      const operation = description.operations.find((one) => one.id === id);
      const draft = this.flows.drafts.find(flow);
      if (!operation || !draft) {
        items.push({ flow, change: 'gone', changes: [], conflicts: [] });
        continue;
      }
      const now = flowOfOperation(operation, { name: flow, base: row.base, credential: row.credential });
      const merged = mergeUpdate(document, now, draft.document);
      if (apply && merged.changes.length > 0) {
        await this.flows.drafts.saveDraft(flow, asJson(merged.document), draft.updatedAt);
        made[id] = { flow, document: now };
      }
      const change = merged.changes.length === 0 ? 'same' : merged.conflicts.length > 0 ? 'conflict' : 'changed';
      items.push({ flow, change, changes: merged.changes, conflicts: merged.conflicts });
    }
    if (apply) this.#keep({ name: own, ...where }, description, row.base, row.credential, made);
    return { document: summary(this.#row(name)), items, description };
  }

  #keep(
    source: Source & { name: string },
    { title, version }: ApiDescription,
    base: string,
    credential: string | null,
    made: Made,
  ): void {
    const values = { url: source.url ?? null, title, version, credential, base, made, readAt: Date.now() };
    this.database
      .insert(documents)
      .values({ name: source.name, ...values })
      .onConflictDoUpdate({ target: documents.name, set: values })
      .run();
    this.bus.changed('document', source.name);
  }

  async #text({ url, text }: Source): Promise<string> {
    if (text !== undefined && Buffer.byteLength(text) > LARGEST)
      throw new PindroError('body_too_large', {
        limit: humanSize(LARGEST),
        where: 'by removing parts of the document',
      });
    if (text !== undefined) return text;
    if (url === undefined)
      throw new PindroError('request_invalid', { why: 'Give the address of the document, or the document itself' });
    const address = requireAddress(url);
    const signal = AbortSignal.timeout(PATIENCE);
    const headers = { accept: 'application/json, application/yaml, */*;q=0.5' };
    const answer = await this.webFetch(
      { method: 'GET', url: address, headers, body: null, maxBytes: LARGEST },
      { signal },
    ).catch((error: unknown) => {
      const why = signal.aborted ? `it did not respond within ${PATIENCE / 1000} s` : (error as Error).message;
      throw new PindroError('address_unreachable', { what: 'The document', address, why }, { cause: error });
    });
    if (answer.status >= 400) throw new PindroError('http_status', { address, status: answer.status });
    return answer.body;
  }
}

const baseOf = (base: string | undefined) => {
  if (base === undefined)
    throw new PindroError(
      'request_invalid',
      { why: 'The document has no address; set one as "base"' },
      { at: '/base' },
    );
  return withoutEnd(requireAddress(base), '/');
};

const summary = ({ name, title, version, url, base, credential, made, readAt }: Row): ImportedDocument => ({
  ...{ name, title, version, url, base, credential },
  flows: Object.values(made as Made).map(({ flow }) => flow),
  readAt: new Date(readAt).toISOString(),
});

import type { WorkspaceChange } from '@pindro/contract';
import { giveWay, isObject, type JsonObject, type Mistake, ownOf, PindroError, writeText } from '@pindro/core';
import type { CredentialStore } from '../credentials/store.js';
import { type EndpointDocument, readEndpoint } from '../endpoints/document.js';
import type { EndpointStore } from '../endpoints/store.js';
import type { EntryRecord, EntryStore } from '../entries/store.js';
import type { FlowStore } from '../flows/store.js';
import type { ModelStore } from '../models/store.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import { isLong, WorkThread } from '../platform/work-thread.js';
import type { ServerStore } from '../servers/store.js';
import type { TableStore } from '../tables/store.js';
import { type ReadFile, readFile } from './read-file.js';
import type { fileWork } from './work.js';

type Files = Record<string, string>;
interface Refusal {
  path: string;
  mistakes: Mistake[];
}
interface Imported {
  done: string[];
  refused: Refusal[];
  /** What only a person can supply, in words. */
  gaps: string[];
}
interface Parts {
  bus: Bus;
  database: Database;
  flows: FlowStore;
  endpoints: EndpointStore;
  servers: ServerStore;
  tables: TableStore;
  entries: EntryStore;
  credentials: CredentialStore;
  models: ModelStore;
}

/** Things that stand in files; of rows, runs and clients no file tells. */
const WRITTEN: ReadonlySet<string> = new Set(['flow', 'endpoint', 'server', 'entry', 'credential', 'model']);

/** A workspace as files: everything but rows, runs and secrets, in an order that stays the same. */
export class WorkspaceFiles {
  readonly #thread = new WorkThread<typeof fileWork>(
    new URL('./work-thread.js', import.meta.url),
    (limit) => new PindroError('request_invalid', { why: `a file of the workspace takes more than ${limit}` }),
  );

  /** Counts how often what is written in files has changed. */
  #era = 0;

  constructor(private readonly parts: Parts) {
    parts.bus.on('changed', (what) => {
      if (WRITTEN.has(what)) this.#era++;
    });
  }

  close(): void {
    this.#thread.close();
  }

  async export(): Promise<Files> {
    const files: Files = {};
    const documents = Object.entries(this.#documents()).sort(([a], [b]) => a.localeCompare(b));
    for (const [path, document] of documents)
      files[path] = typeof document === 'string' ? document : await this.#write(document);
    return files;
  }

  async #write(document: JsonObject): Promise<string> {
    await giveWay();
    return isLong(document) ? this.#thread.ask('write', document) : writeText(document);
  }

  async #read(path: string, text: string): Promise<ReadFile> {
    await giveWay();
    return isLong(text) ? this.#thread.ask('read', path, text) : readFile(path, text);
  }

  /** By path; flows as they were written. */
  #documents(): Record<string, string | JsonObject> {
    const { flows, endpoints, servers, tables, entries, credentials, models } = this.parts;
    const files: Record<string, string | JsonObject> = {};
    for (const flow of flows.all()) files[`flows/${flow.name}.yaml`] = flow.text;
    for (const name of endpoints.names())
      files[`endpoints/${name}.yaml`] = endpoints.get(name) as unknown as JsonObject;
    for (const { name, columns, owner } of tables.list())
      files[`tables/${name}.yaml`] = {
        format: 'pindro/table@1',
        name,
        columns: Object.fromEntries(columns.map((column) => [column.name, column.type])),
        ...(owner !== null && { owner }),
      };
    for (const { name, url, credential } of servers.list())
      files[`servers/${name}.yaml`] = { format: 'pindro/server@1', name, url, ...(credential && { credential }) };
    for (const { name, dialect, base, model, credential } of models.list())
      files[`models/${name}.yaml`] = {
        format: 'pindro/model@1',
        name,
        dialect,
        base,
        model,
        ...(credential && { credential }),
      };
    for (const flow of new Set(entries.list().map((entry) => entry.flow)))
      files[`entries/${flow}.yaml`] = {
        format: 'pindro/entries@1',
        flow,
        entries: entries.list(flow).map(asWritten),
      };
    const secrets = credentials
      .list(() => [])
      .map(({ name, kind, header, account }) => ({
        name,
        kind,
        ...(header && { header }),
        ...(account && { account }),
        secret: 'GIVE-IT-AGAIN',
      }));
    if (secrets.length > 0)
      files['credentials.yaml'] = { format: 'pindro/credentials@1', credentials: secrets as never };
    return files;
  }

  /** How files differ from what is here, from here to the files. */
  async compare(files: Files): Promise<WorkspaceChange[]> {
    const here = await this.export();
    const paths = [...new Set([...Object.keys(here), ...Object.keys(files)])].sort((a, b) => a.localeCompare(b));
    const changes: WorkspaceChange[] = [];
    for (const path of paths) {
      const [before, after] = [ownOf(here, path), ownOf(files, path)];
      const change =
        before === undefined ? 'added' : after === undefined ? 'removed' : before === after ? 'same' : 'changed';
      const lines = change === 'same' ? [] : await this.#thread.ask('compare', before ?? '', after ?? '');
      changes.push({ path, change, lines });
    }
    return changes;
  }

  /** Takes files in, all of them or none. Secrets are named and stay to be given. */
  async import(files: Files, overwrite: boolean): Promise<Imported> {
    const read: ReadFile[] = [];
    for (const [path, text] of Object.entries(files)) read.push(await this.#read(path, text));
    const wrong = read.flatMap(({ path, mistakes }) => (mistakes.length > 0 ? [{ path, mistakes }] : []));
    for (;;) {
      const era = this.#era;
      const here = await this.export();
      const refused = overwrite ? wrong : [...wrong, ...differing(here, files)];
      if (refused.length > 0) return { done: [], refused, gaps: [] };
      const fresh = read.filter(({ path }) => ownOf(here, path) !== files[path]);
      const endpoints = await this.#checkEndpoints(fresh);
      // Somebody changed something meanwhile: that must not be written over unseen.
      if (era !== this.#era) continue;
      return endpoints.refused.length > 0
        ? { done: [], refused: endpoints.refused, gaps: [] }
        : this.#keepAll(fresh, endpoints.documents);
    }
  }

  #keepAll(fresh: ReadFile[], checked: Map<string, EndpointDocument>): Imported {
    const gaps = fresh.flatMap((one) => this.#gapsOf(one.path, one.value));
    const done: string[] = [];
    try {
      this.parts.database.driver
        .transaction(() => {
          for (const kind of ['tables', 'flows', 'endpoints', 'entries'])
            for (const one of fresh.filter(({ path }) => path.startsWith(`${kind}/`))) {
              this.#keep(kind, one, checked);
              done.push(one.path);
            }
        })
        .immediate();
    } catch (error) {
      return { done: [], refused: [refusalOf((error as { path?: string }).path ?? '', error)], gaps: [] };
    }
    return { done, refused: [], gaps };
  }

  /** Endpoints are checked before anything is kept: that takes a while, and what keeps waits for nobody. */
  async #checkEndpoints(read: ReadFile[]): Promise<{ documents: Map<string, EndpointDocument>; refused: Refusal[] }> {
    const arriving = new Map(
      read.flatMap(({ draft }) => (draft?.document ? [[draft.document.name, draft.document]] : [])),
    );
    const documents = new Map<string, EndpointDocument>();
    const refused: Refusal[] = [];
    for (const { path, text, value } of read.filter(({ path }) => path.startsWith('endpoints/'))) {
      await giveWay();
      try {
        documents.set(path, this.parts.endpoints.check(readEndpoint(isLong(text) ? value : text), arriving));
      } catch (error) {
        refused.push(refusalOf(path, error));
      }
    }
    return { documents, refused };
  }

  #keep(kind: string, { path, value, draft }: ReadFile, checked: Map<string, EndpointDocument>): void {
    const { flows, endpoints, tables, entries } = this.parts;
    const name = String(value.name);
    try {
      if (draft) flows.keepDraft(name, draft);
      else if (kind === 'endpoints') endpoints.keep(checked.get(path)!);
      else if (kind === 'tables') {
        if (tables.names().includes(name)) requireSameTable(tables, value);
        else tables.create(name, value.columns as never, typeof value.owner === 'string' ? value.owner : null);
      } else writeEntries(entries, value);
    } catch (error) {
      throw Object.assign(error as Error, { path });
    }
  }

  /** What a file names that only a person can supply. */
  #gapsOf(path: string, value: JsonObject): string[] {
    const { servers, models, credentials } = this.parts;
    if (path === 'credentials.yaml')
      return (Array.isArray(value.credentials) ? value.credentials.filter(isObject) : [])
        .filter(({ name }) => !credentials.names().includes(String(name)))
        .map(({ name, kind }) => `credential "${name}" (${kind}): add it with its secret`);
    if (path.startsWith('servers/') && !servers.names().includes(String(value.name)))
      return [
        `tool server "${value.name}" at ${value.url}: attach it${value.credential ? ` with credential "${value.credential}"` : ''}`,
      ];
    if (path.startsWith('models/') && !models.names().includes(String(value.name)))
      return [
        `model connection "${value.name}" at ${value.base}: add it${value.credential ? ` with credential "${value.credential}"` : ''}`,
      ];
    return [];
  }
}

/** Files that are here already, and differ. */
function differing(here: Files, files: Files): Refusal[] {
  return Object.entries(files)
    .filter(([path, text]) => ownOf(here, path) !== undefined && ownOf(here, path) !== text)
    .filter(([path]) => !path.startsWith('credentials'))
    .map(([path]) => ({
      path,
      mistakes: [
        { at: '', message: 'It is here already, and differs', hint: 'Compare them, then import with "overwrite".' },
      ],
    }));
}

/** Why a file was refused. What nobody foresaw is thrown on. */
function refusalOf(path: string, error: unknown): Refusal {
  if (!(error instanceof PindroError)) throw error;
  return { path, mistakes: error.mistakes ?? [{ at: error.at ?? '', message: error.message, hint: error.hint }] };
}

const asWritten = ({ path, on, settings, kind }: EntryRecord): JsonObject => {
  const { kind: _, ...rest } = settings;
  return { kind, ...(kind !== 'schedule' && { path }), on, ...(rest as unknown as JsonObject) };
};

function writeEntries(entries: EntryStore, value: JsonObject): void {
  const flow = String(value.flow);
  const wanted = (Array.isArray(value.entries) ? value.entries.filter(isObject) : []).map(
    ({ path, on, ...settings }) => ({
      ...{ on: on !== false, settings: settings as never },
      ...(typeof path === 'string' && { path }),
    }),
  );
  entries.become(flow, wanted);
}

/** A table with rows in it is not made over. */
function requireSameTable(tables: TableStore, value: JsonObject): void {
  const { columns } = tables.summary(String(value.name));
  const here = Object.fromEntries(columns.map((column) => [column.name, column.type]));
  if (JSON.stringify(here) !== JSON.stringify(value.columns))
    throw new PindroError('already_there', { what: 'table with other columns', name: String(value.name) });
}

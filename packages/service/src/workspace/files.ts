import type { WorkspaceChange } from '@pindro/contract';
import {
  draftSchema,
  type FlowDocument,
  isObject,
  type JsonObject,
  type Mistake,
  mistakesOf,
  ownOf,
  PindroError,
  readSource,
  writeText,
} from '@pindro/core';
import { diffLines } from 'diff';
import type { CredentialStore } from '../credentials/store.js';
import type { EndpointStore } from '../endpoints/store.js';
import type { EntryRecord, EntryStore } from '../entries/store.js';
import type { FlowStore } from '../flows/store.js';
import type { ModelStore } from '../models/store.js';
import type { Database } from '../platform/database/open.js';
import type { ServerStore } from '../servers/store.js';
import type { TableStore } from '../tables/store.js';

type Files = Record<string, string>;
interface Refusal {
  path: string;
  mistakes: Mistake[];
}
interface Parts {
  database: Database;
  flows: FlowStore;
  endpoints: EndpointStore;
  servers: ServerStore;
  tables: TableStore;
  entries: EntryStore;
  credentials: CredentialStore;
  models: ModelStore;
}

const PATH = /^(flows|endpoints|servers|tables|models|entries)\/([a-z][a-z0-9-]*)\.(ya?ml|json)$/;

/** A workspace as files: everything but rows, runs and secrets, in an order that stays the same. */
export class WorkspaceFiles {
  constructor(private readonly parts: Parts) {}

  export(): Files {
    const { flows, endpoints, servers, tables, entries, credentials, models } = this.parts;
    const files: Files = {};
    for (const flow of flows.all()) files[`flows/${flow.name}.yaml`] = flow.text;
    for (const name of endpoints.names())
      files[`endpoints/${name}.yaml`] = writeText(endpoints.get(name) as unknown as JsonObject);
    for (const { name, columns, owner } of tables.list())
      files[`tables/${name}.yaml`] = writeText({
        format: 'pindro/table@1',
        name,
        columns: Object.fromEntries(columns.map((column) => [column.name, column.type])),
        ...(owner !== null && { owner }),
      });
    for (const { name, url, credential } of servers.list())
      files[`servers/${name}.yaml`] = writeText({
        format: 'pindro/server@1',
        name,
        url,
        ...(credential && { credential }),
      });
    for (const { name, dialect, base, model, credential } of models.list())
      files[`models/${name}.yaml`] = writeText({
        format: 'pindro/model@1',
        name,
        dialect,
        base,
        model,
        ...(credential && { credential }),
      });
    for (const flow of new Set(entries.list().map((entry) => entry.flow)))
      files[`entries/${flow}.yaml`] = writeText({
        format: 'pindro/entries@1',
        flow,
        entries: entries.list(flow).map(asWritten),
      });
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
      files['credentials.yaml'] = writeText({ format: 'pindro/credentials@1', credentials: secrets as never });
    return Object.fromEntries(Object.entries(files).sort(([a], [b]) => a.localeCompare(b)));
  }

  /** How files differ from what is here, from here to the files. */
  compare(files: Files): WorkspaceChange[] {
    const here = this.export();
    const paths = [...new Set([...Object.keys(here), ...Object.keys(files)])].sort((a, b) => a.localeCompare(b));
    return paths.map((path) => {
      const [before, after] = [here[path], files[path]];
      const change =
        before === undefined ? 'added' : after === undefined ? 'removed' : before === after ? 'same' : 'changed';
      return { path, change, lines: change === 'same' ? [] : linesOf(before ?? '', after ?? '') };
    });
  }

  /** Takes files in, all of them or none. Secrets are named and stay to be given. */
  import(files: Files, overwrite: boolean): { done: string[]; refused: Refusal[]; gaps: string[] } {
    const read = Object.entries(files).map(([path, text]) => this.#read(path, text));
    const refused = read.flatMap(({ path, mistakes }) => (mistakes.length > 0 ? [{ path, mistakes }] : []));
    const here = this.export();
    if (!overwrite)
      for (const path of Object.keys(files))
        if (ownOf(here, path) !== undefined && ownOf(here, path) !== files[path] && !path.startsWith('credentials'))
          refused.push({
            path,
            mistakes: [
              {
                at: '',
                message: 'It is here already, and differs',
                hint: 'Compare them, then import with "overwrite".',
              },
            ],
          });
    if (refused.length > 0) return { done: [], refused, gaps: [] };
    const fresh = read.filter(({ path }) => ownOf(here, path) !== files[path]);
    const gaps = fresh.flatMap((one) => this.#gapsOf(one.path, one.value));
    const done: string[] = [];
    try {
      this.parts.database.door
        .transaction(() => {
          for (const kind of ['tables', 'flows', 'endpoints', 'entries'])
            for (const one of fresh.filter(({ path }) => path.startsWith(`${kind}/`))) {
              this.#write(kind, one.path, one.text, one.value);
              done.push(one.path);
            }
        })
        .immediate();
    } catch (error) {
      if (!(error instanceof PindroError)) throw error;
      const path = (error as { path?: string }).path ?? '';
      return {
        done: [],
        refused: [
          { path, mistakes: error.mistakes ?? [{ at: error.at ?? '', message: error.message, hint: error.hint }] },
        ],
        gaps: [],
      };
    }
    return { done, refused: [], gaps };
  }

  #read(path: string, text: string): { path: string; text: string; value: JsonObject; mistakes: Mistake[] } {
    const match = PATH.exec(path);
    const { value, mistakes, locate } = readSource(text);
    const object = isObject(value) ? value : {};
    const wrong: Mistake[] = [...mistakes];
    if (!match && path !== 'credentials.yaml')
      wrong.push({
        at: '',
        message: 'It does not belong to a workspace',
        hint: 'Files stand as flows/NAME.yaml, endpoints/NAME.yaml and so on.',
      });
    if (match && mistakes.length === 0) {
      const named = match[1] === 'entries' ? object.flow : object.name;
      if (named !== match[2])
        wrong.push(
          locate({
            at: '/name',
            message: `The file is named "${match[2]}", but the document "${named}"`,
            hint: 'Give both the same name.',
          }),
        );
      if (match[1] === 'flows') {
        const parsed = draftSchema.safeParse(value);
        if (!parsed.success) wrong.push(...mistakesOf(parsed.error, value).map((mistake) => locate(mistake)));
      }
    }
    return { path, text, value: object, mistakes: wrong };
  }

  #write(kind: string, path: string, text: string, value: JsonObject): void {
    const { flows, endpoints, tables, entries } = this.parts;
    try {
      if (kind === 'flows') flows.saveDraft((value as unknown as FlowDocument).name, text);
      else if (kind === 'endpoints') endpoints.save(text);
      else if (kind === 'tables') {
        if (tables.names().includes(String(value.name))) requireSameTable(tables, value);
        else
          tables.create(
            String(value.name),
            value.columns as never,
            typeof value.owner === 'string' ? value.owner : null,
          );
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

const asWritten = ({ path, on, settings, kind }: EntryRecord): JsonObject => {
  const { kind: _, ...rest } = settings;
  return { kind, ...(kind !== 'schedule' && { path }), on, ...(rest as unknown as JsonObject) };
};

function writeEntries(entries: EntryStore, value: JsonObject): void {
  const flow = String(value.flow);
  for (const entry of entries.list(flow)) entries.remove(entry.id);
  for (const one of Array.isArray(value.entries) ? value.entries.filter(isObject) : []) {
    const { path, on, ...settings } = one;
    entries.add({ flow, on: on !== false, settings: settings as never, ...(typeof path === 'string' && { path }) });
  }
}

/** A table with rows in it is not made over. */
function requireSameTable(tables: TableStore, value: JsonObject): void {
  const { columns } = tables.summary(String(value.name));
  const here = Object.fromEntries(columns.map((column) => [column.name, column.type]));
  if (JSON.stringify(here) !== JSON.stringify(value.columns))
    throw new PindroError('already_there', { what: 'table with other columns', name: String(value.name) });
}

function linesOf(before: string, after: string): WorkspaceChange['lines'] {
  return diffLines(before, after).flatMap(({ added, removed, value }) =>
    value
      .replace(/\n$/, '')
      .split('\n')
      .map((text) => ({ sign: added ? ('+' as const) : removed ? ('-' as const) : (' ' as const), text })),
  );
}

import {
  asJson,
  type Draft,
  type FlowDocument,
  type JsonObject,
  letOthers,
  PindroError,
  referencesOf,
  withNewName,
  writeText,
} from '@pindro/core';
import type { WorkspaceFiles } from './files.js';
import type { Bundle } from './read-bundle.js';
import { withoutKeys } from './sorts/addresses.js';
import type { WorkspaceParts } from './sorts/sort.js';
import { type Gap, quoted } from './sorts/sort.js';

type Sort = 'tables' | 'servers' | 'models' | 'credentials' | 'endpoints';
const SORTS: readonly Sort[] = ['tables', 'servers', 'models', 'credentials', 'endpoints'];
const WORDS: Record<Sort, string> = {
  tables: 'table',
  servers: 'tool server',
  models: 'model connection',
  credentials: 'credential',
  endpoints: 'endpoint',
};

export interface BundlePreview {
  flow: string;
  items: { type: 'flows' | Sort; name: string; exists: boolean; known: string[] }[];
}

export interface BundleTaken {
  flows: string[];
  tables: string[];
  gaps: Gap[];
}

/** A flow with its dependencies: called flows, table columns, and references to the rest. */
export class Bundles {
  constructor(private readonly parts: WorkspaceParts & { workspace: WorkspaceFiles }) {}

  /** @returns YAML */
  async make(name: string): Promise<string> {
    const { flows } = this.parts;
    const documents = new Map<string, FlowDocument>();
    const wanted = [flows.drafts.get(name).name];
    const named: Record<Sort, Set<string>> = {
      ...{ tables: new Set(), servers: new Set(), models: new Set(), credentials: new Set(), endpoints: new Set() },
    };
    for (const one of wanted) {
      if (documents.has(one)) continue;
      const { document } = flows.drafts.get(one);
      documents.set(one, document);
      const references = referencesOf(document);
      wanted.push(
        ...(references.flows ?? []).map((flow) => flows.drafts.nameOf(flow)).filter((flow) => flows.drafts.find(flow)),
      );
      for (const sort of SORTS) for (const other of references[sort] ?? []) named[sort].add(other);
    }
    return writeText(this.#describe(wanted[0]!, [...documents.values()], named) as unknown as JsonObject);
  }

  #describe(flow: string, documents: FlowDocument[], named: Record<Sort, Set<string>>): Bundle {
    const { tables, servers, models, credentials, endpoints } = this.parts;
    const of = <T>(sort: Sort, there: () => string[], describe: (name: string) => T) =>
      [...named[sort]]
        .filter((name) => there().includes(name))
        .sort()
        .map(describe);
    return {
      format: 'pindro/bundle@1',
      flow,
      flows: documents,
      tables: of(
        'tables',
        () => tables.names(),
        (name) => ({
          name,
          columns: Object.fromEntries(tables.definitions.columns(name).map((column) => [column.name, column.type])),
        }),
      ),
      servers: of(
        'servers',
        () => servers.names(),
        (name) => {
          const { url, about } = servers.summary(name);
          return { name, about, url: withoutKeys(url), tools: servers.repository.tools(name).map((tool) => tool.name) };
        },
      ),
      models: of(
        'models',
        () => models.names(),
        (name) => {
          const { dialect, base, model } = models.summary(name);
          return { name, about: '', dialect, base: withoutKeys(base), model };
        },
      ),
      credentials: of(
        'credentials',
        () => credentials.names(),
        (name) => {
          const { kind, account } = credentials.summary(name, []);
          return { name, about: account, kind };
        },
      ),
      endpoints: of(
        'endpoints',
        () => endpoints.names(),
        (name) => ({ name, about: endpoints.get(name).description }),
      ),
    };
  }

  /** Returns what a bundle holds and needs, with what of it is here. @throws request_invalid */
  async preview(written: string | JsonObject): Promise<BundlePreview> {
    const bundle = await this.parts.workspace.readBundle(written);
    const flows = this.parts.flows.drafts.allNames();
    const item = (type: 'flows' | Sort, name: string, here: string[]) => ({
      ...{ type, name, exists: here.includes(name), known: type === 'flows' ? [] : here },
    });
    return {
      flow: bundle.flow,
      items: [
        ...bundle.flows.map(({ name }) => item('flows', name, flows)),
        ...SORTS.flatMap((sort) => {
          const here = this.#namesOf(sort);
          return bundle[sort].map(({ name }) => item(sort, name, here));
        }),
      ],
    };
  }

  #namesOf(sort: Sort): string[] {
    return this.parts[sort].names();
  }

  /**
   * Takes a bundle in, all of it or nothing: flows as drafts, tables that are not there. What it needs is matched by name, or
   * by what `match` says: `{"servers": {"lift": "cable"}}`.
   * @throws request_invalid, already_there
   */
  async take(
    written: string | JsonObject,
    { match, overwrite }: { match: Partial<Record<string, Record<string, string>>>; overwrite: boolean },
  ): Promise<BundleTaken> {
    const bundle = await this.parts.workspace.readBundle(written);
    const { flows, tables, checker, surroundings, config } = this.parts;
    const documents = bundle.flows.map((given) => this.#matched(given as unknown as FlowDocument, match));
    const taken = documents.map(({ name }) => name).filter((name) => flows.drafts.find(name));
    if (taken.length > 0 && !overwrite)
      throw new PindroError('already_there', { what: 'flow', name: taken.join('", "') });
    const wantedTables = bundle.tables.filter(({ name }) => match.tables?.[name] === undefined);
    for (const { name, columns } of wantedTables)
      if (tables.names().includes(name)) this.#requireColumns(name, columns);
    const drafts: { name: string; draft: Draft }[] = [];
    for (const document of documents) {
      const { draft } = await checker.draw(asJson(document), surroundings());
      drafts.push({ name: document.name, draft });
      await letOthers();
    }
    const made = wantedTables.filter(({ name }) => !tables.names().includes(name));
    config.driver
      .transaction(() => {
        for (const { name, columns } of made) tables.definitions.create(name, columns);
        for (const { name, draft } of drafts) flows.drafts.keepDraft(name, draft);
      })
      .immediate();
    return {
      flows: documents.map(({ name }) => name),
      tables: made.map(({ name }) => name),
      gaps: this.#gaps(bundle, match),
    };
  }

  #matched(given: FlowDocument, match: Partial<Record<string, Record<string, string>>>): FlowDocument {
    let document = given;
    for (const sort of SORTS)
      for (const [from, to] of Object.entries(match[sort] ?? {}))
        document = withNewName(document, sort, new Set([from]), to) ?? document;
    return document;
  }

  #requireColumns(table: string, columns: Bundle['tables'][number]['columns']): void {
    const here = this.parts.tables.definitions.columns(table);
    const missing = Object.entries(columns).filter(
      ([name, type]) => !here.some((column) => column.name === name && column.type === type),
    );
    if (missing.length === 0) return;
    const why = `The existing table "${table}" has no ${missing.map(([name, type]) => `${name} ${type}`).join(', ')}`;
    throw new PindroError('request_invalid', { why: `${why}; match it to another table, or add the columns` });
  }

  #gaps(bundle: Bundle, match: Partial<Record<string, Record<string, string>>>): Gap[] {
    const commands: { sort: Sort; needs: { name: string; command: string }[] }[] = [
      {
        sort: 'servers',
        needs: bundle.servers.map(({ name, url }) => ({
          name,
          command: `pindro server attach ${quoted(name)} ${quoted(url)}`,
        })),
      },
      {
        sort: 'models',
        needs: bundle.models.map(({ name, base, model }) => ({
          name,
          command: `pindro model add ${quoted(name)} ${quoted(base)} ${quoted(model)}`,
        })),
      },
      {
        sort: 'credentials',
        needs: bundle.credentials.map(({ name, kind }) => ({
          name,
          command: `pindro credential add ${quoted(name)} --kind ${kind}`,
        })),
      },
      {
        sort: 'endpoints',
        needs: bundle.endpoints.map(({ name }) => ({ name, command: `pindro endpoint create ${quoted(name)}` })),
      },
    ];
    return commands.flatMap(({ sort, needs }) =>
      needs
        .filter(({ name }) => !this.#namesOf(sort).includes(match[sort]?.[name] ?? name))
        .map(({ name, command }) => ({ what: `${WORDS[sort]} "${name}"`, command })),
    );
  }
}

import { RESOURCES, type WorkspaceChange } from '@pindro/contract';
import type { ToolDescription } from '@pindro/core';
import { type FlowDocument, giveWay, type JsonObject, type Mistake, ownOf, PindroError, writeText } from '@pindro/core';
import { type EndpointDocument, readEndpoint } from '../endpoints/document.js';
import { isLong, WorkThread } from '../platform/work-thread.js';
import { type Bundle, readBundle } from './read-bundle.js';
import { type ReadFile, readFile } from './read-file.js';
import { SORTS, thingType } from './sorts/registry.js';
import type { Documents, Gap, Sort, Wanted, WorkspaceParts } from './sorts/sort.js';
import type { fileWork } from './work.js';

type Files = Record<string, string>;
interface Refusal {
  path: string;
  mistakes: Mistake[];
}
interface Imported {
  done: string[];
  refused: Refusal[];
  gaps: Gap[];
}
interface ImportOptions {
  overwrite: boolean;
  /** Leaves what is live in the files alone: what arrives is drafts. */
  drafts: boolean;
}

/** Things that are stored in files; runs and clients are not. */
const WRITTEN: ReadonlySet<string> = new Set([
  ...RESOURCES.filter((one) => one.files).map((one) => one.name),
  ...['columns', 'workshop'],
]);
const NOTHING_MORE: Wanted = { rows: false, people: false, drafts: false };

/** A workspace as files: everything but runs and secrets, in an order that stays the same. */
export class WorkspaceFiles {
  readonly #thread = new WorkThread<typeof fileWork>(
    new URL('./work-thread.js', import.meta.url),
    (limit) => new PindroError('request_invalid', { why: `parsing a file of the workspace takes more than ${limit}` }),
  );

  /** Counts how often what is written in files has changed. */
  #era = 0;

  constructor(private readonly parts: WorkspaceParts) {
    parts.bus.on('changed', (what) => {
      if (WRITTEN.has(what)) this.#era++;
    });
  }

  close(): void {
    this.#thread.close();
  }

  async export(wanted: Wanted = NOTHING_MORE): Promise<Files> {
    const files: Files = {};
    const all: Documents = Object.assign({}, ...SORTS.map((sort) => sort.write(this.parts, wanted)));
    const documents = Object.entries(all).sort(([a], [b]) => a.localeCompare(b));
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

  /** Reads a bundle, in the thread where it is long. @throws request_invalid */
  async readBundle(written: string | JsonObject): Promise<Bundle> {
    return isLong(written) ? this.#thread.ask('readBundle', written) : readBundle(written);
  }

  /** What is here, of rows, people and what is live only where files tell of them. */
  #like(files: Files): Promise<Files> {
    const told = new Set(Object.keys(files).map((path) => thingType(path)?.sort.at));
    return this.export({ rows: told.has('rows'), people: told.has('people.yaml'), drafts: !told.has('live') });
  }

  /** How files differ from what is here, from here to the files. */
  async compare(files: Files): Promise<WorkspaceChange[]> {
    const here = await this.#like(files);
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

  /** Imports files atomically. Required values are reported with the command that supplies them. */
  async import(given: Files, { overwrite, drafts }: ImportOptions): Promise<Imported> {
    requireWorkspace(given);
    const files = drafts
      ? Object.fromEntries(Object.entries(given).filter(([path]) => !path.startsWith('live/')))
      : given;
    const read: ReadFile[] = [];
    for (const [path, text] of Object.entries(files)) read.push(await this.#read(path, text));
    const wrong = read.flatMap(({ path, mistakes }) => (mistakes.length > 0 ? [{ path, mistakes }] : []));
    for (;;) {
      const era = this.#era;
      const here = await this.#like(files);
      const same = new Set(
        read
          .filter(({ path, value, mistakes }) => mistakes.length === 0 && this.#unchanged(path, value))
          .map(({ path }) => path),
      );
      const refused = overwrite ? wrong : [...wrong, ...differing(here, files).filter(({ path }) => !same.has(path))];
      if (refused.length > 0) return { done: [], refused, gaps: [] };
      const fresh = read.filter(({ path }) => ownOf(here, path) !== files[path] && !same.has(path));
      const endpoints = await this.#checkEndpoints(fresh, read);
      // Somebody has changed something: it must not be overwritten.
      if (era !== this.#era) continue;
      return endpoints.refused.length > 0
        ? { done: [], refused: endpoints.refused, gaps: [] }
        : this.#keepAll(fresh, read, endpoints.documents, overwrite);
    }
  }

  #unchanged(path: string, value: JsonObject): boolean {
    return thingType(path)?.sort.unchanged?.(value, this.parts) ?? false;
  }

  #keepAll(fresh: ReadFile[], all: ReadFile[], checked: Map<string, EndpointDocument>, overwrite: boolean): Imported {
    const done: string[] = [];
    const ordered = (files: ReadFile[]) =>
      SORTS.flatMap((sort) =>
        files.filter(({ path }) => thingType(path)?.sort === sort).map((file) => ({ file, sort })),
      );
    try {
      this.parts.config.driver
        .transaction(() => {
          for (const { file, sort } of ordered(fresh))
            if (this.#keep(sort, file, checked, overwrite)) done.push(file.path);
        })
        .immediate();
    } catch (error) {
      return { done: [], refused: [refusalOf((error as { path?: string }).path ?? '', error)], gaps: [] };
    }
    for (const { file, sort } of ordered(fresh)) sort.after?.(file.value, this.parts);
    // Also of what was here already: a gap stays one until it is filled.
    const gaps = ordered(all).flatMap(({ file, sort }) => sort.gaps?.(file.value, this.parts) ?? []);
    return { done, refused: [], gaps };
  }

  /** @returns whether anything was written */
  #keep(
    sort: Sort,
    { path, value, draft }: ReadFile,
    checked: Map<string, EndpointDocument>,
    overwrite: boolean,
  ): boolean {
    const { flows, endpoints } = this.parts;
    try {
      if (draft) flows.drafts.keepDraft(String(value.name), draft);
      else if (checked.has(path)) endpoints.keep(checked.get(path)!);
      else return sort.keep?.(value, this.parts, overwrite) ?? false;
      return true;
    } catch (error) {
      throw Object.assign(error as Error, { path });
    }
  }

  /** Endpoints are checked before anything is kept: that takes a while, and what keeps waits for nobody. */
  async #checkEndpoints(
    fresh: ReadFile[],
    all: ReadFile[],
  ): Promise<{ documents: Map<string, EndpointDocument>; refused: Refusal[] }> {
    const flows = new Map<string, FlowDocument>(
      all.flatMap(({ draft }) => (draft?.document ? [[draft.document.name, draft.document]] : [])),
    );
    const servers = Object.fromEntries(
      all
        .filter(({ path }) => path.startsWith('servers/'))
        .map(({ value }) => [String(value.name), (value.tools ?? []) as unknown as ToolDescription[]]),
    );
    const documents = new Map<string, EndpointDocument>();
    const refused: Refusal[] = [];
    for (const { path, text, value } of fresh.filter((file) => file.path.startsWith('endpoints/'))) {
      await giveWay();
      try {
        const source = readEndpoint(isLong(text) ? value : text);
        documents.set(path, this.parts.endpoints.check(source, flows, servers));
      } catch (error) {
        refused.push(refusalOf(path, error));
      }
    }
    return { documents, refused };
  }
}

/** @throws request_invalid where nothing of it is a file of a workspace */
function requireWorkspace(files: Files): void {
  if (Object.keys(files).some((path) => thingType(path))) return;
  const found = Object.keys(files).slice(0, 3).join(', ');
  const why = found
    ? `This is not a workspace: it has ${found}, but no files`
    : 'This is not a workspace: it has no files';
  throw new PindroError('request_invalid', { why: `${why} such as flows/NAME.yaml or endpoints/NAME.yaml` });
}

/** Files that are here already, and differ. */
function differing(here: Files, files: Files): Refusal[] {
  return Object.entries(files)
    .filter(([path, text]) => ownOf(here, path) !== undefined && ownOf(here, path) !== text)
    .filter(([path]) => {
      const sort = thingType(path)?.sort;
      return !sort?.adds && (sort?.keep || /^(flows|endpoints)\//.test(path));
    })
    .map(([path]) => ({
      path,
      mistakes: [
        {
          at: '',
          message: 'It already exists with different content',
          hint: 'Compare them, then import with "overwrite".',
        },
      ],
    }));
}

/** Why a file was refused. What nobody foresaw is thrown on. */
function refusalOf(path: string, error: unknown): Refusal {
  if (!(error instanceof PindroError)) throw error;
  return { path, mistakes: error.mistakes ?? [{ at: error.at ?? '', message: error.message, hint: error.hint }] };
}

import type {
  FetchAnswer,
  Json,
  JsonObject,
  Ports,
  TableAnswer,
  TableOperation,
  ToolDescription,
  ToolResult,
  WatchEvent,
} from '@pindro/core';
import {
  type JournalEntry,
  MemoryJournal,
  type RunRequest,
  requireFlow,
  runFlow,
  type Stage,
  startFlow,
} from '@pindro/core';

/** Ports that live in memory, for tests of the core on its own. Any part can be replaced. */
export interface TestPorts extends Ports {
  journal: MemoryJournal;
  /** What watchers were shown. */
  shown: WatchEvent[];
  readonly commits: number;
}

export function testPorts(
  parts: Partial<Ports> & {
    flows?: never;
    documents?: Record<string, string>;
    tools?: Record<string, ToolDescription[]>;
  } = {},
): TestPorts {
  const journal = new MemoryJournal();
  const shown: WatchEvent[] = [];
  const kept = new Map<string, Json[]>();
  const none = (what: string) => async (): Promise<never> => {
    throw new Error(`this test has no ${what}`);
  };
  const ports: TestPorts = {
    journal,
    shown,
    get commits() {
      return journal.commits;
    },
    fetch: none('web'),
    tables: { run: none('tables') },
    toolServers: {
      describe: async (server) => ({ tools: parts.tools?.[server] ?? [], rules: {} }),
      call: none('tool server'),
    },
    endpoints: { exposures: async () => [] },
    models: {
      connection: async (name) => ({
        name,
        dialect: 'chat-completions',
        base: 'http://model.test',
        model: 'test',
        credential: null,
        settings: {},
      }),
    },
    memory: {
      open: async (key) => kept.get(key) ?? [],
      save: async (key, turns) => void kept.set(key, turns),
      release: async () => {},
    },
    secrets: { reveal: none('secrets') },
    mail: { send: none('mail server') },
    scripts: { run: none('scripts') },
    approvals: { ask: none('people') },
    stepping: { before: async () => ({ go: true }) },
    clock: { now: async () => Date.parse('2027-02-14T10:00:00Z'), zone: async () => 'UTC' },
    record: journal,
    watch: { show: (event) => void shown.push(event) },
    ...(parts as object),
    flows: {
      load: async (name: string, _stage: Stage) => ({
        document: requireFlow(parts.documents?.[name] ?? '') as unknown as Json,
        revision: null,
      }),
    },
  };
  return ports;
}

/** Runs a flow written as YAML with an input. */
export function run(
  document: string,
  input: Json = {},
  ports: Ports = testPorts(),
  rest: Partial<RunRequest> & { signal?: AbortSignal } = {},
) {
  const { signal = new AbortController().signal, ...request } = rest;
  return runFlow(
    {
      document: requireFlow(document),
      revision: null,
      stage: 'draft',
      entry: 'hand',
      caller: { id: 'ines', attributes: { hut: 'kestrel' } },
      session: 's1',
      input,
      ...request,
    },
    ports,
    signal,
  );
}

/** A flow document from its steps alone. */
export const flow = (steps: string, rest = '', name = 'test') =>
  `format: pindro/flow@1\nname: ${name}\n${rest}\nsteps:\n${steps}`;

export const spansOf = (ports: TestPorts) => ports.journal.spans();
export const journalOf = (ports: TestPorts) => ports.journal.entries();
export const stepStates = (ports: TestPorts) =>
  Object.fromEntries(
    ports.shown.flatMap(({ live }) =>
      live.kind === 'step' && live.state !== 'running' ? [[live.path, live.state]] : [],
    ),
  );

/** A table in memory that counts what it is asked. */
export function memoryTable(rows: JsonObject[] = []): {
  rows: JsonObject[];
  run(operation: TableOperation): Promise<TableAnswer>;
} {
  return {
    rows,
    run: async (operation) => {
      const fits = (row: JsonObject, where: object) =>
        Object.entries(where).every(([name, value]) => row[name] === value);
      if (operation.do === 'find') return { rows: rows.filter((row) => fits(row, operation.where[0] ?? {})) };
      if (operation.do !== 'add') throw new Error('this test only finds and adds');
      const { unless, row } = operation;
      if (unless) {
        const matching = rows.filter((one) => fits(one, unless.where));
        const found = matching.reduce((sum, one) => sum + (unless.sum ? Number(one[unless.sum]) : 1), 0);
        if (found > unless.over) return { rows: [], refused: { found, over: unless.over } };
      }
      rows.push(row);
      return { rows: [row] };
    },
  };
}

export const answer = (body: unknown, status = 200): FetchAnswer => ({
  status,
  headers: { 'content-type': 'application/json' },
  body: typeof body === 'string' ? body : JSON.stringify(body),
});
export const text = (words: string, isError = false): ToolResult => ({
  content: [{ type: 'text', text: words }],
  isError,
});

/** Fetches for real, as a service would; an answer comes in small pieces. */
export const web: Ports['fetch'] = async (request, { signal, onPiece }) => {
  const { method, headers } = request;
  const response = await fetch(request.url, { method, headers, body: request.body, signal });
  const body = await response.text();
  if (response.ok) for (const piece of body.match(/[\s\S]{1,7}/g) ?? []) onPiece?.(piece);
  return { status: response.status, headers: {}, body: response.ok ? '' : body };
};

/** A model connection to an address. @param settings may be worked out anew for each question */
export const modelAt = (base: string, settings: JsonObject | (() => JsonObject) = {}): Ports['models'] => ({
  connection: async (name) => ({
    ...{ name, dialect: 'chat-completions', base, model: 'm', credential: null },
    settings: typeof settings === 'function' ? settings() : settings,
  }),
});

/** Begins a flow, or goes on with one from its journal, without waiting for it. */
export const begin = (document: string, ports: Ports, input: Json = {}, resume?: JournalEntry[]) =>
  startFlow(
    {
      document: requireFlow(document),
      revision: null,
      stage: 'draft',
      entry: 'hand',
      caller: { id: 'ines', attributes: {} },
      session: null,
      input,
      ...(resume && { resume }),
    },
    ports,
    new AbortController().signal,
  );

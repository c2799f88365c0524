import { join } from 'node:path';
import { type JournalEntry, type JournalStore, MemoryJournal, type RunHead } from '@pindro/core';
import { openDatabase, RunStore, SqliteJournal } from '@pindro/service/parts';
import { expect } from 'chai';
import { discard, temporary, until } from '../support/workspace.js';

const head = (id: string, more: Partial<RunHead> = {}): RunHead => ({
  id,
  traceId: 't'.repeat(32),
  parentSpan: null,
  parentRun: null,
  flow: 'reserve-bunks',
  revision: 1,
  stage: 'live',
  entry: 'tool',
  caller: { id: 'ines', attributes: {} },
  session: id,
  input: {},
  startedAt: 1_800_000_000_000,
  span: 's'.repeat(16),
  ...more,
});
type Body = JournalEntry extends infer E
  ? E extends JournalEntry
    ? Omit<E, 'run' | 'sequence' | 'at'>
    : never
  : never;

/** Appends entries of a run, numbered from a sequence on. */
function put(store: JournalStore, run: string, from: number, ...bodies: Body[]): void {
  bodies.forEach((body, index) => {
    const entry = { run, sequence: from + index, at: 1_800_000_000_000, ...body } as JournalEntry;
    store.append({ type: 'journal', entry });
  });
}
const started = (id: string, more: Partial<RunHead> = {}): Body => ({ type: 'started', head: head(id, more) });
const settled = (path: string, output: unknown): Body => ({
  type: 'step_settled',
  path,
  attempt: 1,
  state: 'done',
  branch: null,
  output: output as never,
});
const ended: Body = { type: 'ended', state: 'done', result: { ok: true } };

interface Opened {
  store: JournalStore;
  close(): void;
}
function sqlite(): Opened & { journal: SqliteJournal; runs: RunStore; database: ReturnType<typeof openDatabase> } {
  const data = temporary();
  const database = openDatabase(join(data, 'runs.db'), 'runs');
  const journal = new SqliteJournal(database, {
    seal: (value) => Buffer.from(JSON.stringify(value)).toString('base64'),
    unseal: (sealed) => JSON.parse(Buffer.from(sealed, 'base64').toString()),
  });
  const close = () => {
    database.driver.close();
    discard(data);
  };
  return { store: journal, journal, database, runs: new RunStore(database, journal), close };
}

const STORES: Record<string, () => Opened> = {
  'in memory': () => ({ store: new MemoryJournal(), close: () => {} }),
  'in SQLite': sqlite,
};

for (const [where, open] of Object.entries(STORES)) {
  describe(`a journal ${where}`, () => {
    let store: JournalStore;
    let close: () => void;
    beforeEach(() => ({ store, close } = open()));
    afterEach(() => close());
    const types = async (run: string) => (await store.read(run)).map((entry) => `${entry.sequence} ${entry.type}`);

    it('tells a run again from its entries, in order, each run its own', async () => {
      put(store, 'r1', 0, started('r1'), settled('a', { n: 1 }));
      put(store, 'r2', 0, started('r2'));
      await store.commit('r1');
      put(store, 'r1', 2, settled('b', { n: 2 }), ended);
      await store.commit('r1');
      expect(await types('r1')).to.deep.equal(['0 started', '1 step_settled', '2 step_settled', '3 ended']);
      expect(await types('r2')).to.deep.equal(['0 started']);
      expect(await store.read('nobody')).to.deep.equal([]);
    });

    it('keeps the head, the document and what was sealed whole', async () => {
      const document = { format: 'pindro/flow@1', name: 'reserve-bunks', steps: {} };
      put(store, 'r1', 0, { type: 'started', head: head('r1'), sealed: { pin: '4711' }, document });
      const sealed = { value: { door: '4711' }, secrets: ['4711'] };
      put(store, 'r1', 1, { ...settled('a', { door: '•••' }), sealed } as Body);
      await store.commit('r1');
      const [first, second] = await store.read('r1');
      expect(first).to.deep.include({ head: head('r1'), sealed: { pin: '4711' }, document });
      expect(second).to.deep.include({ sealed });
    });

    it('gives back long values exactly, also such as look like what a store writes', async () => {
      const long = { text: 'ü🏔\n'.repeat(2000), stored: { output: 'not a hash' }, list: [null, true, 0.5] };
      put(store, 'r1', 0, started('r1'), settled('a', long), settled('b', long), { ...ended, result: long } as Body);
      await store.commit('r1');
      const entries = await store.read('r1');
      expect(entries[1]).to.have.deep.property('output', long);
      expect(entries[2]).to.have.deep.property('output', long);
      expect(entries[3]).to.have.deep.property('result', long);
    });

    it('reads what nobody has committed yet', async () => {
      put(store, 'r1', 0, started('r1'));
      expect(await types('r1')).to.deep.equal(['0 started']);
    });
  });
}

describe('a group of runs in one transaction', () => {
  let all: ReturnType<typeof sqlite>;
  beforeEach(() => (all = sqlite()));
  afterEach(() => all.close());

  it('loses nobody when one of them cannot be written: only that one is told so', async () => {
    const { store, runs } = all;
    for (let index = 0; index < 16; index++) put(store, `good${index}`, 0, started(`good${index}`), ended);
    put(store, 'bad', 0, started('bad', { session: 'a\0b' }), ended);
    const outcomes = await Promise.allSettled(
      ['bad', ...Array.from({ length: 16 }, (_, index) => `good${index}`)].map((run) => store.commit(run)),
    );
    expect(outcomes.shift()).to.have.nested.property('reason.code', 'value_unsafe');
    expect(outcomes.map(({ status }) => status)).to.deep.equal(Array(16).fill('fulfilled'));
    expect(runs.count()).to.deep.equal({ runs: 16, running: 0 });
    expect(runs.find('bad')).to.equal(null);
    put(store, 'later', 0, started('later'), ended);
    await store.commit('later');
    expect(runs.get('later').state).to.equal('done');
  });

  it('keeps what the storage refuses until it takes it again, in order', async () => {
    const { runs, database } = all;
    const troubles: string[] = [];
    const noisy = new SqliteJournal(database, {
      seal: String,
      unseal: JSON.parse,
      trouble: (error) => void troubles.push(error?.message ?? 'well'),
    });
    put(noisy, 'r1', 0, started('r1'));
    await noisy.commit('r1');
    const { page_count } = database.driver.prepare('PRAGMA page_count').get() as { page_count: number };
    database.driver.exec(`PRAGMA max_page_count = ${page_count}`);
    put(
      noisy,
      'r1',
      1,
      settled(
        'a',
        Array.from({ length: 20_000 }, (_, index) => `bunk ${index}`),
      ),
    );
    put(noisy, 'r2', 0, started('r2'), settled('a', 'x'.repeat(500_000)), ended);
    const failed = await Promise.allSettled([noisy.commit('r1'), noisy.commit('r2')]);
    for (const one of failed) expect(one).to.have.nested.property('reason.code', 'storage_failed');
    expect(noisy.trouble).to.have.property('code', 'storage_failed');
    expect(noisy.entries('r1')).to.have.length(1);
    database.driver.exec('PRAGMA max_page_count = 1000000');
    put(noisy, 'r1', 2, ended);
    await until(() => noisy.trouble === null, 'the record to be well again by itself');
    expect(noisy.entries('r1').map(({ sequence }) => sequence)).to.deep.equal([0, 1, 2]);
    expect([runs.get('r1').state, runs.get('r2').state]).to.deep.equal(['done', 'done']);
    expect(troubles).to.deep.equal(['The record could not be written: no space is left', 'well']);
  });

  it('stores a long value once, however many show it', async () => {
    const { store, database } = all;
    const long = { rows: Array.from({ length: 200 }, (_, index) => ({ index, hut: 'kestrel' })) };
    for (const run of ['r1', 'r2'])
      put(store, run, 0, started(run), settled('a', long), settled('b', long), { ...ended, result: long } as Body);
    await Promise.all(['r1', 'r2'].map((run) => store.commit(run)));
    const count = (table: string) =>
      Number((database.driver.prepare(`SELECT count(*) AS n FROM ${table}`).get() as { n: number }).n);
    expect(count('payloads')).to.equal(1);
    expect(count('payload_uses')).to.equal(2);
  });
});

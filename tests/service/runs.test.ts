import { join } from 'node:path';
import type { JournalEntry, RecordEvent, RunHead, Span } from '@pindro/core';
import {
  ConversationStore,
  openDatabase,
  permitOwnRecord,
  RunStore,
  SqliteJournal,
  Vault,
} from '@pindro/service/parts';
import { expect } from 'chai';
import { discard, temporary } from '../support/workspace.js';

const head = (id: string, more: Partial<RunHead> = {}): RunHead => ({
  id,
  traceId: 't'.repeat(32),
  parentSpan: null,
  parentRun: null,
  flow: 'f',
  revision: 1,
  stage: 'live',
  entry: 'hand',
  caller: { id: 'ines', attributes: {} },
  session: id,
  input: { a: 1 },
  startedAt: 1_800_000_000_000,
  span: 's'.repeat(16),
  ...more,
});
const span = (run: string, spanId: string, start = 0): Span => ({
  traceId: 't'.repeat(32),
  spanId,
  parentId: null,
  run,
  work: 'step',
  name: spanId,
  start,
  end: start + 1,
  status: 'ok',
  attributes: {},
});
type Body = JournalEntry extends infer E
  ? E extends JournalEntry
    ? Omit<E, 'run' | 'sequence' | 'at'>
    : never
  : never;
const entry = (run: string, sequence: number, body: Body): RecordEvent => ({
  type: 'journal',
  entry: { run, sequence, at: 1_800_000_000_001, ...body } as JournalEntry,
});
const ended = (run: string, sequence: number) =>
  entry(run, sequence, { type: 'ended', state: 'done', result: { ok: true } });

describe('the record of runs', () => {
  let data: string;
  let database: ReturnType<typeof openDatabase>;
  let journal: SqliteJournal;
  let store: RunStore;
  beforeEach(() => {
    data = temporary();
    database = openDatabase(join(data, 'runs.db'), 'runs');
    journal = new SqliteJournal(database, {
      seal: (value) => `sealed:${JSON.stringify(value)}`,
      unseal: (sealed) => JSON.parse(sealed.replace(/^sealed:/, '')),
    });
    store = new RunStore(database, journal);
  });
  afterEach(() => {
    journal.flush();
    database.driver.close();
    discard(data);
  });
  const rows = (sql: string) => database.driver.prepare(sql).all() as Record<string, unknown>[];

  it('writes a short run once, as one row', async () => {
    journal.append(entry('r1', 0, { type: 'started', head: head('r1') }));
    journal.append({ type: 'span', span: span('r1', 'a') });
    journal.append(ended('r1', 1));
    await journal.commit('r1');
    expect(rows('SELECT count(*) AS n FROM runs')[0]!.n).to.equal(1);
    expect(rows('SELECT count(*) AS n FROM pages')[0]!.n).to.equal(0);
    expect(store.get('r1')).to.deep.include({ state: 'done', result: { ok: true }, error: null });
    expect(store.entries('r1').map((one) => [one.sequence, one.type])).to.deep.equal([
      [0, 'started'],
      [1, 'ended'],
    ]);
  });

  it('writes a long run while it goes on, and completes it', async () => {
    journal.append(entry('r1', 0, { type: 'started', head: head('r1') }));
    await journal.commit('r1');
    expect(store.get('r1')).to.deep.include({ state: 'running', endedAt: null });
    expect(store.count()).to.deep.equal({ runs: 1, running: 1 });
    journal.append({ type: 'span', span: span('r1', 'late', 5) });
    journal.append({ type: 'span', span: span('r1', 'early', 2) });
    journal.append(ended('r1', 1));
    await journal.commit('r1');
    expect(store.get('r1').state).to.equal('done');
    expect(store.spans(store.tree('r1')).map((one) => one.name)).to.deep.equal(['early', 'late']);
  });

  it('writes by itself what nobody commits', async () => {
    journal.append(entry('r1', 0, { type: 'started', head: head('r1') }));
    await new Promise((resolve) => setTimeout(resolve, 80));
    expect(store.get('r1').state).to.equal('running');
  });

  it('serves many commits with one transaction', async () => {
    let transactions = 0;
    const { transaction } = database.driver;
    database.driver.transaction = ((work: never) => {
      transactions++;
      return transaction(work);
    }) as typeof transaction;
    for (let index = 0; index < 50; index++)
      journal.append(entry(`r${index}`, 0, { type: 'started', head: head(`r${index}`) }));
    await Promise.all(
      Array.from({ length: 50 }, (_, index) => {
        journal.append(ended(`r${index}`, 1));
        return journal.commit(`r${index}`);
      }),
    );
    expect(transactions).to.equal(1);
    expect(store.count()).to.deep.equal({ runs: 50, running: 0 });
  });

  it('tells every commit when the record cannot be written, and writes it once it can', async () => {
    database.driver.exec('ALTER TABLE runs RENAME TO elsewhere');
    journal.append(entry('r1', 0, { type: 'started', head: head('r1') }));
    const results = await Promise.allSettled([journal.commit('r1'), journal.commit('r1')]);
    for (const result of results) expect(result).to.have.nested.property('reason.code', 'storage_failed');
    database.driver.exec('ALTER TABLE elsewhere RENAME TO runs');
    await journal.commit('r1');
    expect(store.get('r1').state).to.equal('running');
  });

  it('seals the input of a run with sensitive parts', async () => {
    journal.append(
      entry('r1', 0, { type: 'started', head: head('r1', { input: { pin: '•••' } }), sealed: { pin: '1234' } }),
    );
    await journal.commit('r1');
    expect(store.get('r1').sealed).to.equal('sealed:{"pin":"1234"}');
    expect(
      rows('SELECT head, outcome, entries, spans FROM runs')
        .map((row) => JSON.stringify(row))
        .join(),
    ).not.to.contain('1234');
  });

  it('finds a tree by who started whom, not by a trace id', async () => {
    const tree = [
      head('root'),
      head('child', { parentRun: 'root' }),
      head('grandchild', { parentRun: 'child' }),
      head('stranger'),
    ];
    for (const one of tree) {
      journal.append(entry(one.id, 0, { type: 'started', head: one }));
      journal.append({ type: 'span', span: span(one.id, `s-${one.id}`) });
      journal.append(ended(one.id, 1));
    }
    await journal.commit('r1');
    expect(store.tree('root').map((run) => run.head.id)).to.deep.equal(['root', 'child', 'grandchild']);
    expect(store.spans(store.tree('child')).map((one) => one.spanId)).to.have.members(['s-child', 's-grandchild']);
    expect(() => store.tree('nobody')).to.throw('There is no run named "nobody"');
  });

  it('lists by filter and page', async () => {
    for (let index = 0; index < 5; index++) {
      const id = `r${index}`;
      journal.append(
        entry(id, 0, {
          type: 'started',
          head: head(id, {
            flow: index % 2 ? 'odd' : 'even',
            caller: { id: index < 2 ? 'ines' : 'marit', attributes: {} },
            session: 's',
            parentRun: index === 4 ? 'r0' : null,
          }),
        }),
      );
      journal.append(ended(id, 1));
    }
    await journal.commit('r1');
    const ids = async (filter: object) => (await store.list({ limit: 10, ...filter })).items.map((run) => run.head.id);
    expect(await ids({})).to.deep.equal(['r4', 'r3', 'r2', 'r1', 'r0']);
    expect(await ids({ flow: 'odd' })).to.deep.equal(['r3', 'r1']);
    expect(await ids({ caller: 'ines' })).to.deep.equal(['r1', 'r0']);
    expect(await ids({ roots: true })).to.deep.equal(['r3', 'r2', 'r1', 'r0']);
    expect(await ids({ session: 's', state: 'done', flow: 'even' })).to.deep.equal(['r4', 'r2', 'r0']);
    expect(await store.list({ limit: 2 })).to.have.property('next', 'r3');
    expect(await ids({ cursor: 'r3', limit: 2 })).to.deep.equal(['r2', 'r1']);
    expect((await store.list({ limit: 5 })).next).to.equal(null);
  });

  it('are found however long ago they were, a piece at a time', async () => {
    const id = (index: number) => `r${String(index).padStart(6, '0')}`;
    const rare = [10, 2999, 3000, 3001, 6000, 6999];
    for (let index = 0; index < 7000; index++) {
      const caller = { id: rare.includes(index) ? 'ines' : 'marit', attributes: {} };
      journal.append(
        entry(id(index), 0, { type: 'started', head: head(id(index), { flow: index % 2 ? 'odd' : 'even', caller }) }),
      );
      journal.append(ended(id(index), 1));
    }
    await journal.commit(id(0));
    const found = async (filter: object) => (await store.list({ limit: 10, caller: 'ines', ...filter })).items;
    const newest = rare.toReversed().map(id);
    expect((await found({})).map((run) => run.head.id)).to.deep.equal(newest);
    expect((await found({ cursor: id(3001) })).map((run) => run.head.id)).to.deep.equal([3000, 2999, 10].map(id));
    expect((await found({ flow: 'odd' })).map((run) => run.head.id)).to.deep.equal([6999, 3001, 2999].map(id));
    expect((await found({ depth: 2000 })).map((run) => run.head.id)).to.deep.equal([6999, 6000].map(id));
    const page = await store.list({ limit: 4, caller: 'ines' });
    expect(page.items.map((run) => run.head.id)).to.deep.equal(newest.slice(0, 4));
    expect(page.next).to.equal(newest[3]);
    // Others have their turn in between.
    let turns = 0;
    const beat = setInterval(() => turns++, 0);
    expect(await found({ caller: 'nobody' })).to.deep.equal([]);
    clearInterval(beat);
    expect(turns).to.be.at.least(2);
  });
});

const plain = { seal: (text: string) => `sealed:${text}`, unseal: (sealed: string) => sealed.slice(7) };

describe('what agents remember', () => {
  let data: string;
  let database: ReturnType<typeof openDatabase>;
  let memory: ConversationStore;
  beforeEach(() => {
    data = temporary();
    database = openDatabase(join(data, 'pindro.db'), 'config');
    memory = new ConversationStore(database, plain);
  });
  afterEach(() => {
    database.driver.close();
    discard(data);
  });
  const signal = () => new AbortController().signal;

  it('is there again for the same key, and only for that', async () => {
    await memory.open('a', { signal: signal() });
    await memory.save('a', [{ role: 'user', text: 'hello' }]);
    await memory.release('a');
    expect(await new ConversationStore(database, plain).open('a', { signal: signal() })).to.deep.equal([
      { role: 'user', text: 'hello' },
    ]);
    expect(await memory.open('b', { signal: signal() })).to.deep.equal([]);
  });

  it('lets one turn at a time in, in the order they came', async () => {
    const order: string[] = [];
    const turn = async (name: string) => {
      await memory.open('a', { signal: signal() });
      order.push(`${name} in`);
      await new Promise((resolve) => setTimeout(resolve, 5));
      order.push(`${name} out`);
      await memory.release('a');
    };
    await Promise.all(['one', 'two', 'three'].map(turn));
    expect(order).to.deep.equal(['one in', 'one out', 'two in', 'two out', 'three in', 'three out']);
  });

  it('lets who gave up waiting leave the queue', async () => {
    await memory.open('a', { signal: signal() });
    const impatient = new AbortController();
    const waiting = memory.open('a', { signal: impatient.signal }).catch((error: Error) => error.message);
    const patient = memory.open('a', { signal: signal() });
    impatient.abort(new Error('gave up'));
    expect(await waiting).to.equal('gave up');
    await memory.release('a');
    expect(await patient).to.deep.equal([]);
  });
});

describe('the vault', () => {
  let data: string;
  beforeEach(() => {
    data = temporary();
  });
  afterEach(() => discard(data));

  it('unseals what it sealed, for what it was sealed for', () => {
    const vault = new Vault(data);
    const sealed = vault.seal('secret', 'a');
    expect(sealed).not.to.contain('secret');
    expect(vault.seal('secret', 'a')).not.to.equal(sealed);
    expect(vault.unseal(sealed, permitOwnRecord('a'))).to.equal('secret');
    expect(new Vault(data).unseal(sealed, permitOwnRecord('a'))).to.equal('secret');
    expect(() => vault.unseal(sealed, permitOwnRecord('b'))).to.throw();
    const bytes = Buffer.from(sealed, 'base64');
    bytes[bytes.length - 1]! ^= 1;
    expect(() => vault.unseal(bytes.toString('base64'), permitOwnRecord('a'))).to.throw();
  });

  it('takes its key from a setting instead of the file', () => {
    const key = Buffer.alloc(32, 7).toString('base64');
    const sealed = new Vault(data, key).seal('x', 'y');
    expect(new Vault(data, key).unseal(sealed, permitOwnRecord('y'))).to.equal('x');
    expect(() => new Vault(data).unseal(sealed, permitOwnRecord('y'))).to.throw();
    expect(() => new Vault(data, 'short')).to.throw('instead of 32');
  });
});

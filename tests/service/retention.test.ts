import { cpSync, existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import Sqlite from 'better-sqlite3';
import { expect } from 'chai';
import { discard, temporary, until, type Workspace, workspace } from '../support/workspace.js';
import { DatabaseSync } from './sqlite.js';

const NOISY =
  'format: pindro/flow@1\nname: noisy\nsteps:\n  say: { kind: script, with: { code: "let t = \'\'; for (let i = 0; i < 4000; i++) t += Math.random(); return t;" } }\nresult: done\n';
const FAILS =
  'format: pindro/flow@1\nname: fails\nsteps:\n  end: { kind: stop, with: { as: failed, message: "no" } }\n';
const CALLS =
  'format: pindro/flow@1\nname: calls\nsteps:\n  call: { kind: flow, with: { flow: noisy } }\nresult: done\n';

describe('how long runs are kept', () => {
  let house: Workspace;
  afterEach(() => house.close());
  const furnish = () => {
    for (const flow of [NOISY, FAILS, CALLS]) house.service.flows.drafts.save(flow);
  };
  const flowsOf = async () =>
    (await house.api.listRuns({ query: { limit: 200 } })).items.map(({ flow }) => flow).sort();

  it('lets go of those that ended long ago, with all they began, and of failed ones later', async () => {
    house = await workspace({ keepDays: 0, keepFailedDays: 1 });
    furnish();
    await house.api.runFlow({ name: 'calls', body: {} });
    await house.api.runFlow({ name: 'fails', body: {} });
    const before = (await house.api.status()).record;
    expect(before.payloads.count).to.be.above(0);
    expect(before.next).to.have.property('run');
    const { removed, record } = await house.api.pruneRuns({ body: { olderThanDays: 3650 } });
    expect(removed).to.equal(2);
    expect(await flowsOf()).to.deep.equal(['fails']);
    expect(record.payloads).to.deep.equal({ count: 0, bytes: 0 });
    expect(Date.parse(record.next!.at)).to.be.above(Date.now() + 23 * 60 * 60_000);
    expect((await house.api.pruneRuns({ body: { olderThanDays: 0 } })).removed).to.equal(1);
    expect(await flowsOf()).to.deep.equal([]);
  });

  it('keeps what waits, and what began it', async () => {
    house = await workspace({ keepDays: 0 });
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: asks\nsteps:\n  ask: { kind: approve, with: { title: "Go?" } }\n',
    );
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: starts\nsteps:\n  call: { kind: flow, with: { flow: asks, wait: false } }\nresult: begun\n',
    );
    expect(await house.api.runFlow({ name: 'starts', body: {} })).to.include({ state: 'done' });
    expect((await house.api.pruneRuns({ body: { olderThanDays: 0 } })).removed).to.equal(0);
    const [open] = (await house.api.listApprovals({})).items;
    await house.api.decide({ run: open!.run, body: { path: 'ask', decision: 'approved' } });
    await until(async () => (await house.api.pruneRuns({ body: { olderThanDays: 0 } })).removed === 2, 'both to go');
  });

  it('makes room when the record is too large, and the file shrinks', async function () {
    this.timeout(120_000);
    house = await workspace({ keepBytes: 16 * 1024 * 1024 });
    furnish();
    const size = () => ['runs.db', 'runs.db-wal'].reduce((sum, file) => sum + statSync(join(house.data, file)).size, 0);
    await Promise.all(
      Array.from({ length: 4 }, async () => {
        for (let turn = 0; turn < 100; turn++) await house.api.runFlow({ name: 'noisy', body: {} });
      }),
    );
    const full = size();
    expect(full).to.be.above(20 * 1024 * 1024);
    await house.api.pruneRuns({ body: { olderThanDays: 3650 } });
    const { record, runs } = await house.api.status();
    expect(record.bytes).to.be.at.most(16 * 1024 * 1024);
    expect(runs).to.be.within(50, 399);
    expect(size()).to.be.below(full - 3 * 1024 * 1024);
  });

  it('lets failed runs crowd out no others, nor others them', async function () {
    this.timeout(60_000);
    house = await workspace({ keepBytes: 16 * 1024 * 1024 });
    furnish();
    const refused = (index: number) =>
      house.api.runFlow({ name: 'fails', body: { input: { text: String(index).padEnd(200_000, 'x') } } });
    const states = async (runs: string[]) =>
      Promise.all(
        runs.map((id) =>
          house.api.getRun({ id }).then(
            ({ state }) => state,
            () => 'gone',
          ),
        ),
      );
    const [good, bad]: [string[], string[]] = [[], []];
    for (let turn = 0; turn < 100; turn++) {
      bad.push((await refused(turn)).run);
      good.push((await house.api.runFlow({ name: 'noisy', body: {} })).run);
    }
    // As if they had ended an hour apart: how long letting go of them takes must make no difference.
    const record = new Sqlite(join(house.data, 'runs.db'));
    const ended = record.prepare('UPDATE runs SET ended_at = ? WHERE id = ?');
    for (const runs of [good, bad])
      for (const [turn, run] of runs.entries()) ended.run([Date.now() - (100 - turn) * 60 * 60_000, run]);
    record.close();
    await house.api.pruneRuns({ body: { olderThanDays: 3650 } });
    expect((await house.api.status()).record.bytes).to.be.at.most(16 * 1024 * 1024);
    expect(await states([good[0]!, ...good.slice(-5)])).to.deep.equal(['gone', ...Array(5).fill('done')]);
    expect(await states([bad[0]!, ...bad.slice(-5)])).to.deep.equal(['gone', ...Array(5).fill('failed')]);
  });
});

describe('a data directory', () => {
  const FIXTURE = fileURLToPath(new URL('../../fixtures/data-0.1', import.meta.url));
  let data: string;
  beforeEach(() => {
    data = temporary();
    cpSync(FIXTURE, data, { recursive: true });
  });
  afterEach(() => discard(data));

  it('of an earlier version is copied and brought up to date, with its runs readable and what waits going on', async () => {
    const house = await workspace({ data });
    const copies = readdirSync(data).filter((name) => name.startsWith('before-'));
    expect(copies).to.have.length(1);
    expect(readdirSync(join(data, copies[0]!)).sort()).to.deep.equal(['pindro.db', 'runs.db']);
    const { items } = await house.api.listRuns({ query: { limit: 50 } });
    expect(items.map(({ flow, state }) => `${flow} ${state}`)).to.deep.equal([
      'with-pin done',
      'ask-first waiting',
      'reserve-bunks failed',
      'reserve-bunks done',
    ]);
    const failed = await house.api.getRun({ id: items[2]!.id });
    expect(failed.findings[0]!.title).to.contain('larch has no room');
    expect(failed.cards.map(({ name }) => name)).to.deep.equal(['place', 'book', 'full']);
    expect(house.service.credentials.reveal('lift-key', { inside: 'inspect' }).secrets).to.deep.equal([
      'ropeway-key-for-tests',
    ]);
    expect((await house.api.retryRun({ id: items[0]!.id, body: {} })).state).to.equal('done');
    await house.api.decide({ run: items[1]!.id, body: { path: 'ask', decision: 'approved' } });
    await until(async () => (await house.api.getRun({ id: items[1]!.id })).state === 'done', 'the run to go on');
    await house.close();
    const again = await workspace({ data });
    expect(readdirSync(data).filter((name) => name.startsWith('before-'))).to.deep.equal(copies);
    await again.close();
  });

  it('of a newer version is refused untouched', async () => {
    const database = new DatabaseSync(join(data, 'runs.db'));
    database.rows("INSERT INTO __drizzle_migrations (hash, created_at) VALUES ('later', 9999999999999) RETURNING hash");
    database.close();
    const before = readFileSync(join(data, 'runs.db'));
    const refused = await workspace({ data }).catch((error: { code: string; message: string }) => error);
    expect(refused).to.include({ code: 'data_directory' });
    expect((refused as { message: string }).message).to.contain('created by a newer version');
    expect(readFileSync(join(data, 'runs.db')).equals(before)).to.equal(true);
    expect(existsSync(join(data, 'pindro.pid'))).to.equal(false);
  });
});

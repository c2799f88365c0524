import { execFileSync } from 'node:child_process';
import { chmodSync, mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createClient } from '@pindro/contract';
import { startService } from '@pindro/service';
import Sqlite from 'better-sqlite3';
import { expect } from 'chai';
import { pindro, type Running, startReady } from '../support/process.js';
import { discard, furnish, LIFT_KEY, startTestLift, temporary, until, workspace } from '../support/workspace.js';
import { DatabaseSync } from './sqlite.js';

interface Ready {
  url: string;
  apiKey: string;
}

describe('what was acknowledged', () => {
  let data: string;
  beforeEach(() => {
    data = temporary();
  });
  afterEach(() => discard(data));

  it('is in the record after kill -9 in the middle of calls, and the cut ones say interrupted', async function () {
    this.timeout(40_000);
    const lift = await startTestLift({ delay: 60_000 });
    const house = await workspace({ data });
    furnish(house.service);
    // The server answers its list at once; only its calls take long.
    await house.service.servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: slow\nsteps: { a: { kind: tool, with: { server: lift, tool: lift_status } } }',
    );
    await house.close();

    const first: Running<Ready> = await startReady(['serve', '--json', '--port', '0', '--data', data]);
    const api = createClient({ url: first.contract.url, key: first.contract.apiKey });
    const answered: string[] = [];
    let outgoingValue = true;
    const workers = Array.from({ length: 8 }, async (_, index) => {
      for (let turn = 0; outgoingValue; turn++) {
        const night = new Date(Date.UTC(2027, 0, 1 + ((index * 40 + turn) % 360))).toISOString().slice(0, 10);
        const outcome = await api
          .runFlow({ name: 'reserve-bunks', body: { input: { hut: 'kestrel', night, party: 1 } } })
          .catch(() => null);
        if (outcome) answered.push(`${outcome.run} ${outcome.state}`);
      }
    });
    const cut = api.runFlow({ name: 'slow', body: {} }).catch(() => null);
    await until(() => answered.length > 100, 'a hundred answers');
    await first.stop('SIGKILL');
    outgoingValue = false;
    await Promise.all([...workers, cut]);

    const second: Running<Ready> = await startReady(['serve', '--json', '--port', '0', '--data', data]);
    const again = createClient({ url: second.contract.url, key: second.contract.apiKey });
    const database = new DatabaseSync(join(data, 'runs.db'));
    const states = new Map(database.rows('SELECT id, state FROM runs').map((row) => [row.id, row.state]));
    const entries = new Map(
      database
        .rows(
          "SELECT run, count(*) AS entries FROM (SELECT id AS run, entries FROM runs UNION ALL SELECT run, entries FROM pages) AS page, json_each(page.entries) WHERE value->>'type' = 'ended' GROUP BY run",
        )
        .map((row) => [row.run, row.entries]),
    );
    database.close();
    for (const line of answered) {
      const [run, state] = line.split(' ');
      expect(states.get(run), line).to.equal(state);
      expect(entries.get(run), line).to.equal(1);
    }
    const { items } = await again.listRuns({ query: { flow: 'slow' } });
    expect(items.map((run) => run.state)).to.deep.equal(['interrupted']);
    const { findings } = await again.getRun({ id: items[0]!.id });
    expect(findings[0]).to.include({ code: 'interrupted', severity: 'failure' });
    expect((await again.listRuns({ query: { state: 'running' } })).items).to.deep.equal([]);
    await second.stop();
    await lift.close();
  });

  it('ends in good order on SIGTERM: what runs is let finish', async () => {
    const house = await workspace({ data });
    furnish(house.service);
    const lift = await startTestLift({ delay: 400 });
    await house.service.servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: slow\nsteps: { a: { kind: tool, with: { server: lift, tool: lift_status } } }\nresult: "${ steps.a.data.running }"',
    );
    const outcome = house.api.runFlow({ name: 'slow', body: {} });
    await until(async () => (await house.api.status()).running === 1, 'the run to be under way');
    await house.service.close();
    expect(await outcome).to.deep.include({ state: 'done', result: true });
    await lift.close();
    const again = await workspace({ data });
    expect((await again.api.listRuns({ query: {} })).items.map((run) => run.state)).to.deep.equal(['done']);
    expect(again.service.flows.drafts.names()).to.deep.equal(['reserve-bunks', 'slow']);
    await again.close();
  });
});

describe('a damaged record of a run that was cut', () => {
  it('does not keep the service from starting: the run ends, and the others go on', async () => {
    const data = temporary();
    const house = await workspace({ data });
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: ask\nsteps: { a: { kind: approve, with: { title: "Go on?" } } }',
    );
    const calls = [1, 2].map(() => house.api.runFlow({ name: 'ask', body: {} }));
    const runs = (await Promise.all(calls)).map(({ run, state }) => ({ run, state }));
    expect(runs.map(({ state }) => state)).to.deep.equal(['waiting', 'waiting']);
    await house.close();
    const database = new Sqlite(join(data, 'runs.db'));
    // The kind of an entry that nobody knows, on whichever page it stands.
    for (const [table, column] of [
      ['runs', 'id'],
      ['pages', 'run'],
    ])
      database
        .prepare(`UPDATE ${table} SET entries = replace(entries, '"parked"', '"perked"') WHERE ${column} = ?`)
        .run([runs[0]!.run]);
    database.close();
    const again = await workspace({ data });
    const stateOf = async (run: string) => (await again.api.getRun({ id: run })).state;
    expect([await stateOf(runs[0]!.run), await stateOf(runs[1]!.run)]).to.deep.equal(['interrupted', 'waiting']);
    // Nobody is asked for a run that has ended.
    const open = (await again.api.listApprovals({ query: {} })).items;
    expect(open.map(({ run }) => run)).to.deep.equal([runs[1]!.run]);
    await again.api.decide({ run: open[0]!.run, body: { path: open[0]!.path, decision: 'approved' } });
    await until(async () => (await stateOf(runs[1]!.run)) === 'done', 'the sound run to end');
    await again.close();
    discard(data);
  });
});

describe('a data directory that cannot be used', () => {
  const refusal = async (data: string) => {
    const { code, out, err } = await pindro(['serve', '--port', '0', '--data', data]);
    expect(code).to.equal(1);
    expect(out).to.equal('');
    return err;
  };

  it('below a file', async () => {
    const data = temporary();
    writeFileSync(join(data, 'file'), '');
    expect(await refusal(join(data, 'file', 'data')))
      .to.contain('a part of the path is a file')
      .and.contain('--data');
    discard(data);
  });

  /** A small file system of its own, which only root may mount; the case is skipped elsewhere. */
  const mounted = (options: string, check: (data: string) => Promise<void>) =>
    async function (this: Mocha.Context) {
      const data = mkdtempSync(join(tmpdir(), 'pindro-mount-'));
      try {
        execFileSync('mount', ['-t', 'tmpfs', '-o', options, 'tmpfs', data], { stdio: 'ignore' });
      } catch {
        discard(data);
        return this.skip();
      }
      try {
        await check(data);
      } finally {
        execFileSync('umount', [data]);
        discard(data);
      }
    };

  it('that may not be written', async function () {
    // Root may write anywhere; for it the next case stands.
    if (process.getuid?.() === 0) return this.skip();
    const data = temporary();
    chmodSync(data, 0o500);
    expect(await refusal(join(data, 'inner'))).to.contain('has no write permission');
    discard(data);
  });

  it(
    'that is read-only',
    mounted('ro', async (data) => {
      expect(await refusal(join(data, 'inner')))
        .to.contain('the file system is read-only')
        .and.contain('--data');
    }),
  );

  it(
    'that is full',
    mounted('size=1m', async (data) => {
      expect(await refusal(join(data, 'inner')))
        .to.contain('no space is left')
        .and.contain('Free up space');
    }),
  );

  it('that another Pindro is using', async () => {
    const house = await workspace();
    expect(await refusal(house.data)).to.contain(`another Pindro (process ${process.pid}) is using it`);
    await house.close();
  });

  it('whose lock was left behind by a process that is gone', async () => {
    const data = temporary();
    mkdirSync(data, { recursive: true });
    writeFileSync(join(data, 'pindro.lock'), '999999999');
    const service = await startService({ data, port: 0, logLevel: 'silent' });
    await service.close();
    discard(data);
  });

  it('whose key file was exchanged', async () => {
    const data = temporary();
    const house = await workspace({ data });
    await house.api.addCredential({ body: { name: 'c', secret: 'abcdef' } });
    await house.close();
    writeFileSync(join(data, 'secret.key'), Buffer.alloc(32, 1).toString('base64'));
    const other = await workspace({ data });
    expect(() => other.service.credentials.reveal('c', { inside: 'inspect' })).to.throw('cannot be decrypted');
    await other.close();
    writeFileSync(join(data, 'secret.key'), 'short');
    expect(await refusal(data))
      .to.contain('a key of')
      .and.contain('openssl rand');
    discard(data);
  });
});

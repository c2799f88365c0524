import { join } from 'node:path';
import { type Route, routes } from '@pindro/contract';
import { Driver } from '@pindro/service/parts';
import Sqlite from 'better-sqlite3';
import { expect } from 'chai';
import { furnish, type Workspace, workspace } from '../support/workspace.js';

/** Tables that grow with what happens, as opposed to with what people set up. The ledger holds only runs that have not ended. */
const GROWING = new Set([
  ...['runs', 'pages', 'marks', 'payloads', 'payload_uses', 'sightings', 'figures', 'text_rows', 'findings', 'spent'],
  ...['approvals', 'standing_approvals', 'server_calls', 'server_lists', 'row_history', 'sessions'],
]);
/**
 * Statements that look at every row of such a table on purpose, each with the reason. A plan that ends early, because it
 * goes by an index and has a limit, is no full scan.
 */
const ALLOWED: [RegExp, string][] = [
  [/INSERT INTO `record_totals` SELECT/, 'once, when the file is brought up to date'],
  [/where false$/, 'nothing is looked at'],
];

describe('statements', function () {
  this.timeout(120_000);
  let house: Workspace;
  const seen = new Set<string>();
  before(async () => {
    Driver.onPrepared = (sql) => seen.add(sql);
    house = await workspace();
    furnish(house.service);
  });
  after(async () => {
    Driver.onPrepared = null;
    await house.close();
  });

  it('go by an index wherever a table grows', async () => {
    const input = { hut: 'larch', night: '2027-02-14', party: 1 };
    const { run } = await house.api.runFlow({ name: 'reserve-bunks', body: { input } });
    await house.api.runFlow({ name: 'reserve-bunks', body: { input: { ...input, party: 40 } } });
    // Every route once, with what is there: each asks the database what it asks in earnest.
    const named: Record<string, string> = { id: run, run, name: 'reserve-bunks', flow: 'reserve-bunks', table: 'huts' };
    const calls = Object.entries(routes as Record<string, Route>).filter(
      ([name, { stream, method }]) =>
        !stream && !['events', 'signOut', 'restoreBackup', 'createBackup'].includes(name) && method !== 'DELETE',
    );
    for (const [, route] of calls) {
      for (const values of [named, { ...named, name: 'huts' }]) {
        const path = route.path.replaceAll(/:(\w+)/g, (_, name: string) =>
          encodeURIComponent(values[name] ?? 'nothing'),
        );
        const response = await fetch(`${house.service.url}/api/v1${path}`, {
          method: route.method,
          headers: { authorization: `Bearer ${house.apiKey}`, 'content-type': 'application/json' },
          ...(route.method !== 'GET' && { body: '{}' }),
        });
        await response.arrayBuffer();
      }
    }
    for (const query of [
      ...['state=failed', 'flow=reserve-bunks', 'caller=owner', 'search=larch', 'tool=x', 'server=lift', 'since=1h'],
      ...['session=s', 'endpoint=huts', 'finding=step_failed', 'entry=manual', 'trace=x', 'roots=true'],
    ])
      await fetch(`${house.service.url}/api/v1/runs?${query}`, {
        headers: { authorization: `Bearer ${house.apiKey}` },
      });
    await house.service.close();
    const scans: string[] = [];
    for (const file of ['runs.db', 'pindro.db']) {
      const database = new Sqlite(join(house.data, file));
      for (const sql of seen) {
        if (!/^\s*(select|update|delete|insert|with)/i.test(sql)) continue;
        let plan: { detail: string }[];
        try {
          plan = database.prepare(`EXPLAIN QUERY PLAN ${sql}`).all() as { detail: string }[];
        } catch {
          // It is about the other file.
          continue;
        }
        const sorts = plan.some(({ detail }) => /TEMP B-TREE FOR ORDER BY/i.test(detail));
        const endsEarly = /\blimit\b/i.test(sql) && !sorts && !/\b(count|sum|min|max|avg)\(|group by/i.test(sql);
        for (const { detail } of plan) {
          const [, table = ''] = /^SCAN (\w+)/.exec(detail) ?? [];
          // An index of few rows, such as that of runs that are open, holds only what is looked for.
          const isPartial = /USING (?:COVERING )?INDEX (?:runs_open|approvals_open)/.test(detail);
          if (!GROWING.has(table) || endsEarly || isPartial) continue;
          if (!ALLOWED.some(([pattern]) => pattern.test(sql))) scans.push(`${detail}\n    ${sql.slice(0, 400)}`);
        }
      }
      database.close();
    }
    expect(seen.size).to.be.above(150);
    expect([...new Set(scans)].join('\n'), 'full scans').to.equal('');
  });

  it('that do not are found', () => {
    const database = new Sqlite(':memory:');
    database.exec('CREATE TABLE runs (id TEXT PRIMARY KEY, caller TEXT)');
    const [first] = database.prepare("EXPLAIN QUERY PLAN SELECT * FROM runs WHERE caller = 'x'").all() as {
      detail: string;
    }[];
    expect(first!.detail).to.match(/^SCAN runs/);
    database.close();
  });
});

/*
 * `tools/call` on a Pindro endpoint (a flow of one step, journal and trace stored) beside the same tool written by
 * hand. Rounds are interleaved, so that a noisy machine is noisy for all.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import Sqlite from 'better-sqlite3';
import { createClient } from '../packages/contract/dist/index.js';
import { GREET, load, openSessions } from './load.mjs';
import { startReady } from './process.mjs';

const SESSIONS = 16;
const ROUNDS = 4;
const ROUND = 2500;
const PINDRO = fileURLToPath(new URL('../packages/cli/bin/pindro.js', import.meta.url));
const REFERENCE = fileURLToPath(new URL('./reference-server.mjs', import.meta.url));

/** The record of every run: its first page stands in its row. */
const PAGES = '(SELECT entries, spans FROM runs UNION ALL SELECT entries, spans FROM pages)';

const middle = (values) => values.toSorted((a, b) => a - b)[Math.floor(values.length / 2)];

export async function toolsCall(say) {
  const data = mkdtempSync(join(tmpdir(), 'pindro-bench-'));
  const pindro = await startReady([PINDRO, 'serve', '--json', '--port', '0', '--data', data]);
  const references = { json: await startReady([REFERENCE, '--json']), stream: await startReady([REFERENCE]) };
  try {
    const api = createClient({ url: pindro.ready.url, key: pindro.ready.apiKey });
    await api.importFlow({ body: { document: GREET } });
    const { key } = await api.exposeFlow({ name: 'greet', body: { endpoint: 'bench' } });
    const sides = {
      pindro: { url: `${pindro.ready.url}/mcp/bench`, headers: { authorization: `Bearer ${key}` } },
      json: { url: references.json.ready.url, headers: {} },
      stream: { url: references.stream.ready.url, headers: {} },
    };
    const rounds = { pindro: [], json: [], stream: [] };
    for (const side of Object.values(sides)) {
      side.sessions = await openSessions(side.url, side.headers, SESSIONS);
      side.answered = (await load(side.url, side.sessions, 'greet', 1500)).calls;
    }
    for (let round = 1; round <= ROUNDS; round++) {
      for (const [name, side] of Object.entries(sides)) {
        const result = await load(side.url, side.sessions, 'greet', ROUND);
        side.answered += result.calls;
        rounds[name].push(result);
        say(
          `round ${round} ${name.padEnd(7)} ${Math.round(result.perSecond)} calls/s, p50 ${result.p50.toFixed(1)} ms, p99 ${result.p99.toFixed(1)} ms`,
        );
      }
    }
    const perSecond = (name) => middle(rounds[name].map((round) => round.perSecond));
    const p99 = (name) => middle(rounds[name].map((round) => round.p99));
    const faster = perSecond('json') >= perSecond('stream') ? 'json' : 'stream';
    const database = new Sqlite(join(data, 'runs.db'));
    const count = (sql) => Object.values(database.prepare(sql).get([]))[0];
    const stored = {
      runs: count('SELECT count(*) FROM runs'),
      entries: count(`SELECT sum(json_array_length(entries)) FROM ${PAGES}`),
      // A page of spans begins with its version and its moment.
      spans: count(`SELECT sum(max(json_array_length(spans) - 2, 0)) FROM ${PAGES}`),
    };
    database.close();
    if (stored.runs !== sides.pindro.answered || stored.entries !== 3 * stored.runs || stored.spans !== 2 * stored.runs)
      throw new Error(`answered ${sides.pindro.answered}, stored ${JSON.stringify(stored)}`);
    return {
      name: 'tools-call',
      ours: Math.round(perSecond('pindro')),
      reference: Math.round(perSecond(faster)),
      unit: 'calls/s',
      ratio: perSecond('pindro') / perSecond(faster),
      p99: { ours: p99('pindro'), reference: p99(faster) },
      fasterReference: faster,
      stored: stored.runs,
      answered: sides.pindro.answered,
    };
  } finally {
    await Promise.all([pindro.stop(), references.json.stop(), references.stream.stop()]);
    rmSync(data, { recursive: true, force: true });
  }
}

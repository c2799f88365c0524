/*
 * Mixed callers for a long time, with faults: `npm run soak -- --minutes 60`. Prints a line each minute and a summary at
 * the end: calls by caller, refusals by reason, memory by quarter, and whether every acknowledged call has its record.
 */
import { mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { startReady } from '../bench/process.mjs';
import { prepare } from './prepare.mjs';

const { values } = parseArgs({ options: { minutes: { type: 'string', default: '60' } } });
prepare();
const { createClient } = await import('../packages/contract/dist/index.js');
const { startLift } = await import('../packages/standins/dist/index.js');

const PINDRO = fileURLToPath(new URL('../packages/cli/bin/pindro.js', import.meta.url));
const MINUTES = Number(values.minutes);
const KEY = 'ropeway-key-for-the-soak';
const end = Date.now() + MINUTES * 60_000;
const data = mkdtempSync(join(tmpdir(), 'pindro-soak-'));
const service = await startReady([PINDRO, 'serve', '--json', '--port', '0', '--data', data, '--keep-size', '64m']);
const { url, apiKey } = service.ready;
const api = createClient({ url, key: apiKey });
const pause = (ms) => new Promise((resolve) => setTimeout(resolve, ms));

let lift = await startLift({ key: KEY });
const { port } = new URL(lift.url);
await api.attachServer({ body: { name: 'lift', url: lift.url, secret: KEY } });
await api.createTable({ body: { name: 'notes', columns: { text: 'text', n: 'whole' } } });
const FLOWS = {
  note: 'input: { type: object, properties: { n: { type: integer } } }\nsteps:\n  add: { kind: table, with: { table: notes, do: add, row: { text: "a note", n: "${ input.n }" } } }\nresult: "${ steps.add.row }"\n',
  look: 'steps:\n  call: { kind: tool, with: { server: lift, tool: lift_status } }\nresult: "${ steps.call.data }"\n',
  work: 'steps:\n  run: { kind: script, with: { code: "let t = 0; for (let i = 0; i < 1e5; i++) t += i; return \'x\'.repeat(20000) + t" } }\n  each: { kind: each, after: [run], with: { list: [1, 2, 3], flow: note, input: { n: "${ item }" } } }\nresult: "${ steps.each.count }"\n',
  takes:
    'input: { type: object, additionalProperties: false, properties: { list: { type: array, items: { type: object } } } }\nsteps:\n  say: { kind: text, with: { text: hello } }\nresult: "${ steps.say.text }"\n',
};
let key = '';
for (const [name, flow] of Object.entries(FLOWS)) {
  await api.importFlow({ body: { document: `format: pindro/flow@1\nname: ${name}\n${flow}` } });
  ({ key } = await api.exposeFlow({ name, body: { endpoint: 'soak' } }));
}
await api.createEntry({
  body: { flow: 'note', path: 'soak', settings: { kind: 'hook', guard: 'open', perMinute: 6000 } },
});

const count = {};
const refusals = {};
const acknowledged = [];
const tally = (of, what) => {
  of[what] = (of[what] ?? 0) + 1;
};
const mcp = async (tool, args, headers = {}) => {
  const response = await fetch(`${url}/mcp/soak`, {
    method: 'POST',
    headers: {
      authorization: `Bearer ${key}`,
      'content-type': 'application/json',
      accept: 'application/json',
      ...headers,
    },
    body: JSON.stringify({ jsonrpc: '2.0', id: 1, method: 'tools/call', params: { name: tool, arguments: args } }),
  });
  const { result, error } = await response.json();
  if (error) throw new Error(error.message);
  if (result.isError) throw new Error(result._meta?.['pindro/code'] ?? result.content[0].text);
};
const CALLERS = {
  'note by a client': [() => mcp('note', { n: 1 }), 40],
  'note by another': [() => mcp('note', { n: 2 }), 60],
  'tool of the lift': [() => mcp('look', {}), 120],
  'script and loop': [() => mcp('work', {}), 400],
  hook: [
    async () => {
      const response = await fetch(`${url}/hooks/soak`, { method: 'POST', body: '{"n":3}' });
      if (!response.ok) throw new Error(`hook ${response.status}`);
      await response.text();
    },
    100,
  ],
  'run by the API': [
    async () => {
      const outcome = await api.runFlow({ name: 'note', body: { input: { n: 4 } } });
      if (outcome.state !== 'done') throw new Error(outcome.error.code);
      acknowledged.push(outcome.run);
    },
    250,
  ],
  'hostile body': [() => mcp('takes', { list: Array.from({ length: 50_000 }, () => 0) }), 2000],
  'broken off': [
    async () => {
      const stop = new AbortController();
      setTimeout(() => stop.abort(), 5);
      await fetch(`${url}/mcp/soak`, { method: 'POST', signal: stop.signal, body: '{' }).catch(() => {});
    },
    500,
  ],
  'does not read': [
    () =>
      new Promise((resolve) => {
        const socket = connect(Number(new URL(url).port), '127.0.0.1', () => {
          socket.write(
            `GET /api/v1/events HTTP/1.1\r\nHost: ${new URL(url).host}\r\nAuthorization: Bearer ${apiKey}\r\n\r\n`,
          );
          socket.pause();
        });
        socket.on('error', () => {});
        setTimeout(() => {
          socket.destroy();
          resolve();
        }, 20_000);
      }),
    1000,
  ],
};
const callers = Object.entries(CALLERS).map(async ([name, [call, every]]) => {
  while (Date.now() < end) {
    await call().then(
      () => tally(count, name),
      (error) => tally(refusals, `${name}: ${error.problem?.code ?? error.message}`.slice(0, 90)),
    );
    await pause(every);
  }
});
// The lift company goes away for a moment now and then.
const faults = (async () => {
  while (Date.now() < end) {
    await pause(45_000);
    await lift.close();
    await pause(3000);
    lift = await startLift({ key: KEY, port: Number(port) });
  }
})();

const memory = [];
const resident = () => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${service.pid}/status`, 'utf8'))[1]) / 1024;
for (let minute = 1; Date.now() < end; minute++) {
  for (let part = 0; part < 6 && Date.now() < end; part++) {
    await pause(Math.min(10_000, Math.max(0, end - Date.now())));
    memory.push(resident());
  }
  const calls = Object.values(count).reduce((sum, one) => sum + one, 0);
  process.stderr.write(`  ${minute} min: ${calls} calls, ${Math.round(memory.at(-1))} MB\n`);
}
await Promise.all(callers);
const { record, running } = await api.status();
const lost = {};
// The oldest have been let go of by then; of the latest every one is there.
for (const run of acknowledged.slice(-500))
  await api.getRun({ id: run }).catch((error) => tally(lost, error.problem?.code ?? error.message));
const quarter = (n) => {
  const part = memory.slice(Math.floor((n * memory.length) / 4), Math.floor(((n + 1) * memory.length) / 4));
  return Math.round(part.reduce((sum, one) => sum + one, 0) / Math.max(1, part.length));
};
const quarters = [0, 1, 2, 3].map(quarter);
const flat = quarters[3] <= quarters[1] * 1.15;
const size = ['runs.db', 'runs.db-wal', 'pindro.db'].map((file) => statSync(join(data, file)).size);
console.log(
  JSON.stringify(
    {
      minutes: MINUTES,
      count,
      refusals,
      quarters,
      flat,
      running,
      record: record.bytes,
      files: size,
      lost,
    },
    null,
    2,
  ),
);
await service.stop();
void faults;
await lift.close().catch(() => {});
rmSync(data, { recursive: true, force: true });
process.exit(flat && Object.keys(lost).length === 0 && running === 0 ? 0 : 1);

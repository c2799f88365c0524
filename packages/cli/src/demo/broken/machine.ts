import { type ChildProcess, spawn } from 'node:child_process';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';
import { type Client, createClient } from '@pindro/contract';
import type { StandIns } from '../standins.js';
import type { Shown } from '../state.js';
import { agent, saveFlow } from './broken.js';

const MAIN = fileURLToPath(new URL('../../main.js', import.meta.url));
const SNOW = 'snowfall';
const FULL = 'full-table';

/**
 * Failures of the machine: a service on the same directory with a file size limit of four megabytes fills a file, and
 * is killed during two calls.
 * @returns the runs that the next service resumes
 */
export async function breakTheMachine(data: string, standIns: StandIns): Promise<Shown[]> {
  const { child, api } = await startSmall(data);
  try {
    await api.attachServer({ body: { name: 'summit', url: standIns.faulty.url } });
    await api.addModel({ body: { name: 'forecaster', base: standIns.model.url, model: 'house' } });
    const hangs = { kind: 'tool', with: { server: 'summit', tool: 'hangs', arguments: {} } };
    await saveFlow(api, 'cut-call', { title: 'A call that was cut', steps: { call: hangs } }, true);
    const toolbox = [{ server: 'summit', use: ['hangs'] }];
    await saveFlow(api, 'cut-desk', agent('A desk that was cut', { model: 'forecaster', toolbox }), true);
    await api.createTable({ body: { name: SNOW, columns: { text: 'text' } } });
    const row = { kind: 'table', with: { do: 'add', table: SNOW, row: { text: 'x'.repeat(10_000) } } };
    await saveFlow(api, FULL, { title: 'A table on a full disk', steps: { add: row } }, true);

    void api.runFlow({ name: 'cut-call', body: { input: {}, stage: 'live' } }).catch(() => {});
    void api
      .runFlow({ name: 'cut-desk', body: { input: { message: 'Do what hangs.' }, stage: 'live' } })
      .catch(() => {});
    while (standIns.faulty.called('hangs') < 2) await new Promise((resolve) => setTimeout(resolve, 100));
    const [call, desk] = [await runOf(api, 'cut-call'), await runOf(api, 'cut-desk')];
    const full = await fill(api);
    return [
      { code: 'interrupted', about: 'a call that was under way when the service was killed', run: call },
      { code: 'call_in_doubt', about: 'a call of an agent that was under way then', run: desk },
      ...(full ? [{ code: 'disk_full', about: 'a table on a disk that takes no more', run: full }] : []),
    ];
  } finally {
    child.kill('SIGKILL');
    await new Promise((resolve) => child.once('exit', resolve));
  }
}

/** A service whose files may not grow as they like, where the machine can see to that. */
async function startSmall(data: string): Promise<{ child: ChildProcess; api: Client }> {
  const serve = [process.execPath, MAIN, 'serve', '--json', '--port', '0', '--data', data];
  const bounded = ['sh', '-c', 'trap "" XFSZ; ulimit -f 8192; exec "$0" "$@"', ...serve];
  const [command, ...args] = process.platform === 'win32' ? serve : bounded;
  const child = spawn(command!, args, { stdio: ['ignore', 'pipe', 'inherit'] });
  const line = await new Promise<string>((resolve, reject) => {
    child.once('exit', (code) => reject(new Error(`the service that was to break ended with ${code} before it began`)));
    createInterface({ input: child.stdout! }).once('line', resolve);
  });
  const { url, apiKey } = JSON.parse(line) as { url: string; apiKey: string };
  return { child, api: createClient({ url, key: apiKey }) };
}

const runOf = async (api: Client, flow: string) => (await api.listRuns({ query: { flow } })).items[0]!.id;

/** Fills a table, in smaller and smaller pieces. @returns the run that met that, or null where everything fits */
async function fill(api: Client): Promise<string | null> {
  let size = 500_000;
  for (let rows = 0; size > 1000; rows++) {
    if (rows > 100) return null;
    await api.addRow({ name: SNOW, body: { row: { text: 'x'.repeat(size) } } }).catch(() => {
      size /= 4;
    });
  }
  return (await api.runFlow({ name: FULL, body: { input: {}, stage: 'live' } })).run;
}

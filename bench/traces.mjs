/* The record of runs: what it costs, how large it is, and how quickly a run is found among many. All in this process. */
import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { diagnose, PindroError } from '../packages/core/dist/index.js';
import { openDatabase, ProblemStore, RunStore, RunTexts, SqliteJournal } from '../packages/service/dist/parts.js';

const BAR = { spans: 20_000, bytes: 400, page: 50, search: 200, open: 100, diagnose: 50 };
const middle = (values) => values.toSorted((a, b) => a - b)[Math.floor(values.length / 2)];
const HUTS = ['larch', 'kestrel', 'birch', 'alder', 'cedar'];

async function withRecord(work, options = {}) {
  const data = mkdtempSync(join(tmpdir(), 'pindro-bench-'));
  const database = openDatabase(join(data, 'runs.db'), 'runs');
  const seal = { seal: (value) => JSON.stringify(value), unseal: (text) => JSON.parse(text) };
  const journal = new SqliteJournal(database, { ...seal, ...options });
  try {
    return await work({ data, database, journal });
  } finally {
    database.driver.close();
    rmSync(data, { recursive: true, force: true });
  }
}

let made = 0;
/** Writes a run with ten spans as the engine would; one in ten fails. @returns its id */
export function write(journal, at, callers = 50) {
  const number = made++;
  const run = `r${Math.round(at).toString(36)}${number.toString(36).padStart(8, '0')}`;
  const hut = HUTS[number % HUTS.length];
  const failed = number % 10 === 3;
  const error = failed
    ? new PindroError(
        'tool_reported_error',
        { tool: 'lift.schedule_load', why: 'too heavy' },
        { details: { server: 'lift', tool: 'schedule_load' } },
      ).toRecord()
    : undefined;
  const head = {
    ...{
      id: run,
      traceId: number.toString(16).padStart(32, '0'),
      parentSpan: null,
      parentRun: null,
      flow: `flow-${number % 20}`,
    },
    ...{
      revision: 1,
      stage: 'live',
      entry: number % 2 ? 'hand' : 'tool',
      caller: { id: `caller-${number % callers}`, attributes: {} },
    },
    ...{ session: run, input: { hut, night: '2027-02-13', party: number % 9 }, startedAt: at, span: `s${number}` },
  };
  const span = (index, work, parent, more = {}) => ({
    ...{
      traceId: head.traceId,
      spanId: `${number}-${index}`,
      parentId: parent === null ? null : `${number}-${parent}`,
      run,
      work,
    },
    ...{ name: `${work} ${index}`, start: at + index, end: at + index + 3, status: 'ok', attributes: {}, ...more },
  });
  const tool = { 'gen_ai.tool.name': number % 1000 === 7 ? 'rare_tool' : 'schedule_load', 'pindro.server': 'lift' };
  const spans = [
    span(0, 'run', null, { input: head.input }),
    ...Array.from({ length: 6 }, (_, index) =>
      span(index + 1, 'step', 0, {
        attributes: { 'pindro.kind': 'shape', 'pindro.path': `s${index}` },
        input: { n: index },
        output: { value: `${hut} ${index}` },
      }),
    ),
    span(7, 'model', 0, {
      attributes: { 'pindro.model': 'house', 'gen_ai.usage.input_tokens': 800, 'gen_ai.usage.output_tokens': 60 },
      output: 'Done.',
    }),
    span(8, 'tool', 0, { attributes: tool, input: { hut, weight_kg: number % 400 }, output: { load: `L-${number}` } }),
    span(9, 'tool', 0, { attributes: tool, input: { hut }, ...(error && { error, status: 'error' }) }),
  ];
  const entry = (sequence, body) =>
    journal.append({ type: 'journal', entry: { run, sequence, at: at + sequence, ...body } });
  entry(0, { type: 'started', head });
  for (const one of spans) journal.append({ type: 'span', span: one });
  entry(1, {
    type: 'ended',
    state: failed ? 'failed' : 'done',
    result: failed ? null : { load: `L-${number}`, hut },
    ...(error && { error }),
  });
  return run;
}

export async function spansPerSecond(say) {
  return withRecord(async ({ journal, data }) => {
    const rounds = [];
    for (let round = 0; round < 9; round++) {
      const begun = performance.now();
      for (let index = 0; index < 500; index++) write(journal, Date.now());
      journal.flush();
      rounds.push(5000 / ((performance.now() - begun) / 1000));
    }
    const ours = Math.round(middle(rounds));
    journal.flush();
    const bytes = Math.round(statSync(join(data, 'runs.db')).size / (4500 * 10));
    say(`${ours} spans a second, ${bytes} bytes each on disk with indexes, heads and results`);
    return { name: 'spans-per-second', ours, reference: BAR.spans, unit: 'spans/s', ratio: ours / BAR.spans };
  });
}

export async function bytesPerSpan(say) {
  return withRecord(async ({ journal, database, data }) => {
    for (let index = 0; index < 5000; index++) write(journal, Date.now());
    journal.flush();
    database.driver.exec('PRAGMA wal_checkpoint(TRUNCATE)');
    const ours = Math.round(statSync(join(data, 'runs.db')).size / 50_000);
    say(`${ours} bytes for each span, with all that belongs to its run`);
    return { name: 'bytes-per-span', ours, reference: BAR.bytes, unit: 'bytes', ratio: BAR.bytes / ours };
  });
}

/** How long the first page of filters, a search, a run and a problem take among so many runs. */
async function among(count, say) {
  let store = null;
  let texts = null;
  const written = (run, ended, end) => ended && texts?.ended(run, end.sums.text);
  return withRecord(
    async ({ journal, database }) => {
      store = new RunStore(database, journal);
      texts = new RunTexts(database);
      const problems = new ProblemStore(database);
      const first = Date.now() - count * 1000;
      let last = '';
      for (let index = 0; index < count; index++) {
        last = write(journal, first + index * 1000);
        if (index % 500 === 499) {
          journal.flush();
          texts.settle();
        }
      }
      journal.flush();
      texts.settle();
      const tree = store.tree(last);
      const spans = store.spans(tree);
      const finding = {
        code: 'tool_error',
        severity: 'failure',
        span: spans[0].spanId,
        run: last,
        title: 'x',
        fingerprint: 'f'.repeat(16),
      };
      const some = (await store.list({ limit: 5000 })).items;
      for (const one of some) problems.seen(one, [finding], []);
      const times = {};
      const measure = async (name, work) => {
        const all = [];
        for (let round = 0; round < 7; round++) {
          const begun = performance.now();
          await work();
          all.push(performance.now() - begun);
        }
        times[name] = Number(middle(all).toFixed(1));
      };
      const page = (filter) => async () =>
        await store.titles((await store.list({ limit: 30, roots: true, ...filter })).items);
      await measure('newest', page({}));
      await measure('flow', page({ flow: 'flow-7' }));
      await measure('state', page({ state: 'failed' }));
      await measure('caller', page({ caller: 'caller-7' }));
      await measure('tool', page({ tool: 'schedule_load' }));
      await measure('rare tool', page({ tool: 'rare_tool' }));
      await measure('nothing fits', page({ tool: 'rare_tool', state: 'interrupted' }));
      await measure('failed, server', page({ server: 'lift', failed: true }));
      await measure('model and caller', page({ model: 'house', caller: 'caller-7' }));
      await measure('search', async () => store.list({ limit: 30, among: texts.find('cedar').runs }));
      await measure('rare search', async () => store.list({ limit: 30, among: texts.find('L-77').runs }));
      await measure('open', () => store.spans(store.tree(last)));
      await measure('problem', () => problems.show('f'.repeat(16)));
      say(
        `${count} runs: ${Object.entries(times)
          .map(([name, ms]) => `${name} ${ms} ms`)
          .join(', ')}`,
      );
      return times;
    },
    { written },
  );
}

export async function manyRuns(say) {
  const few = await among(10_000, say);
  // A million, by hand: RUNS=1000000 npm run bench -- --only many-runs
  const most = Number(process.env.RUNS ?? 100_000);
  const many = await among(most, say);
  const pages = Object.entries(many).filter(([name]) => !['search', 'rare search', 'open', 'problem'].includes(name));
  const ours = Math.max(...pages.map(([, ms]) => ms));
  say(
    `from ten thousand to ${most.toLocaleString('en')}: ${Object.keys(few)
      .map((name) => `${name} ${(many[name] / few[name]).toFixed(1)}`)
      .join(', ')} times`,
  );
  return { name: 'many-runs', ours, reference: BAR.page, unit: 'ms', ratio: BAR.page / ours };
}

export async function diagnose5000(say) {
  const error = new PindroError('step_failed', { why: 'no' }).toRecord();
  const root = {
    traceId: 't',
    spanId: 'r',
    parentId: null,
    run: 'r1',
    work: 'run',
    name: 'x',
    start: 0,
    end: 9,
    status: 'error',
    attributes: {},
    error: { ...error, message: 'other' },
  };
  const spans = [
    root,
    ...Array.from({ length: 5000 }, (_, index) => ({
      ...root,
      spanId: `s${index}`,
      parentId: 'r',
      work: 'step',
      name: `s${index}`,
      ...(index % 50 ? { status: 'ok', error: undefined } : { error }),
    })),
  ];
  const trace = { runs: [{ id: 'r1', flow: 'x', parentRun: null, state: 'failed', error: null }], spans };
  diagnose(trace);
  const times = [];
  for (let round = 0; round < 15; round++) {
    const begun = process.cpuUsage();
    diagnose(trace);
    times.push(process.cpuUsage(begun).user / 1000);
  }
  const ours = Number(middle(times).toFixed(1));
  say(`all rules over 5,000 spans, one in fifty failed: ${ours} ms of processor time`);
  return { name: 'diagnose-5000', ours, reference: BAR.diagnose, unit: 'ms', ratio: BAR.diagnose / ours };
}

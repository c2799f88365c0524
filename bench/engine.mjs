/*
 * The engine with the stored recorder on, beside a bare loop of awaited functions that does the same work. Both sides
 * run in this process, in turns.
 */
import { execFile } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { checkFlow, requireFlow, runFlow } from '../packages/core/dist/index.js';
import { openDatabase, SqliteJournal } from '../packages/service/dist/parts.js';

const STEPS = 1000;
const ROUNDS = 15;
const middle = (values) => values.toSorted((a, b) => a - b)[Math.floor(values.length / 2)];

const head =
  'format: pindro/flow@1\nname: bench\ninput: { type: object, properties: { n: { type: integer }, list: { type: array } } }\nsteps:\n';
const chain = () =>
  `${head}${Array.from({ length: STEPS }, (_, i) => `  s${i}: { kind: shape, ${i ? `after: [s${i - 1}], ` : ''}with: { value: "\${ ${i ? `steps.s${i - 1}.value` : 'input.n'} + 1 }" } }`).join('\n')}\nresult: "\${ steps.s${STEPS - 1}.value }"\n`;
const fan = () =>
  `${head}  first: { kind: shape, with: { value: 1 } }\n${Array.from({ length: STEPS }, (_, i) => `  s${i}: { kind: shape, after: [first], with: { value: "\${ steps.first.value + ${i} }" } }`).join('\n')}\n`;
const loop = () =>
  `${head}  e: { kind: each, with: { list: "\${ input.list }", steps: { x: { kind: shape, with: { value: "\${ item + 1 }" } } }, result: "\${ steps.x.value }" } }\nresult: "\${ steps.e.count }"\n`;

/** Ports of a run that only computes, with the record of the service. */
function withRecord(work) {
  const data = mkdtempSync(join(tmpdir(), 'pindro-bench-'));
  const database = openDatabase(join(data, 'runs.db'), 'runs');
  const journal = new SqliteJournal(database, {
    seal: (value) => JSON.stringify(value),
    unseal: (text) => JSON.parse(text),
  });
  const ports = {
    clock: { now: async () => Date.now(), zone: async () => 'UTC' },
    record: journal,
    watch: { show: () => {} },
  };
  return work(ports).finally(() => {
    database.driver.close();
    rmSync(data, { recursive: true, force: true });
  });
}

const run = async (document, input, ports) => {
  const caller = { id: 'bench', attributes: {} };
  const request = { document, revision: null, stage: 'draft', entry: 'hand', caller, session: null, input };
  const outcome = await runFlow(request, ports, new AbortController().signal);
  if (outcome.state !== 'done') throw new Error(JSON.stringify(outcome.error));
  return outcome.result;
};

/** The same additions, each an awaited function. */
async function bare(count) {
  const add = async (n) => n + 1;
  let n = 0;
  const outputs = {};
  for (let i = 0; i < count; i++) {
    n = await add(n);
    outputs[`s${i}`] = { value: n };
  }
  return n;
}

const engine = (name, document) => (say) =>
  withRecord(async (ports) => {
    const flow = requireFlow(document());
    const times = { ours: [], reference: [] };
    for (let round = 0; round < ROUNDS; round++) {
      let begun = performance.now();
      await run(flow, { n: 0 }, ports);
      times.ours.push(performance.now() - begun);
      begun = performance.now();
      await bare(STEPS);
      times.reference.push(performance.now() - begun);
    }
    const perSecond = (values) => Math.round(STEPS / (middle(values) / 1000));
    const [ours, reference] = [perSecond(times.ours), perSecond(times.reference)];
    say(
      `${STEPS} steps in ${middle(times.ours).toFixed(1)} ms; the bare loop ${middle(times.reference).toFixed(2)} ms`,
    );
    return { name, ours, reference, unit: 'steps/s', ratio: ours / reference };
  });
export const engineChain = engine('engine-chain', chain);
export const engineFan = engine('engine-fan', fan);

/** Memory added while a loop goes over 100,000 items, and how fast it goes; to be called in a process that does nothing else. */
export const loopMemory = () =>
  withRecord(async (ports) => {
    const flow = requireFlow(loop());
    const list = Array.from({ length: 100_000 }, (_, index) => index);
    await run(flow, { list: list.slice(0, 2000) }, ports);
    const before = process.memoryUsage().rss;
    let most = before;
    const watch = setInterval(() => {
      most = Math.max(most, process.memoryUsage().rss);
    }, 20);
    const begun = performance.now();
    await run(flow, { list }, ports);
    clearInterval(watch);
    const took = performance.now() - begun;
    return { took, added: (Math.max(most, process.memoryUsage().rss) - before) / 1024 / 1024 };
  });

/** The middle of three processes. */
export async function eachMany(say) {
  const code = `import(${JSON.stringify(import.meta.url)}).then(async ({ loopMemory }) => console.log(JSON.stringify(await loopMemory())))`;
  const runs = [];
  for (let round = 0; round < 3; round++)
    runs.push(JSON.parse((await promisify(execFile)(process.execPath, ['-e', code])).stdout));
  const added = runs.map((one) => Math.round(one.added));
  say(
    `added ${added.join(', ')} MB; ${Math.round(100_000 / (middle(runs.map((one) => one.took)) / 1000))} items a second`,
  );
  const ours = middle(added);
  return { name: 'each-100k', ours, reference: 100, unit: 'MB', ratio: 100 / Math.max(1, ours) };
}

export async function check1000(say) {
  const text = chain();
  const times = [];
  for (let round = 0; round < ROUNDS; round++) {
    const begun = performance.now();
    const { mistakes } = checkFlow(text);
    if (mistakes.length > 0) throw new Error(mistakes[0].message);
    times.push(performance.now() - begun);
  }
  const ours = Math.round(middle(times));
  say(`first ${Math.round(times[0])} ms, then ${middle(times).toFixed(1)} ms`);
  return { name: 'check-1000', ours, reference: 100, unit: 'ms', ratio: 100 / ours };
}

import { join } from 'node:path';
import type { RunHead, Span } from '@pindro/core';
import {
  addTo,
  BOUNDS,
  emptyHistogram,
  MetricStore,
  metricsText,
  openDatabase,
  quantile,
  RunSums,
  setAt,
} from '@pindro/service/parts';
import { expect } from 'chai';
import { discard, temporary } from '../support/workspace.js';

const HOUR = 3_600_000;
const head = (more: Partial<RunHead> = {}): RunHead => ({
  ...{ id: 'r1', traceId: 't', parentSpan: null, parentRun: null, flow: 'send-load', revision: 1, stage: 'live' },
  ...{ entry: 'hand', caller: { id: 'ines', attributes: {} }, session: null, input: {}, startedAt: 0, span: 's' },
  ...more,
});
const call = (took: number, more: Partial<Span> = {}): Span => ({
  ...{
    traceId: 't',
    spanId: 'x',
    parentId: 's',
    run: 'r1',
    work: 'tool',
    name: 'x',
    start: 0,
    end: took,
    status: 'ok',
  },
  ...{ attributes: { 'gen_ai.tool.name': 'schedule_load', 'pindro.server': 'lift' }, ...more },
});

describe('how long things take, as counts', () => {
  it('gives the bound that half of them, and 95 of 100, stay within', () => {
    const histogram = emptyHistogram();
    expect(quantile(histogram, 0.5)).to.equal(null);
    for (let took = 1; took <= 100; took++) addTo(histogram, took);
    expect(quantile(histogram, 0.5)).to.equal(50);
    expect(quantile(histogram, 0.95)).to.equal(100);
    expect(quantile(histogram, 1)).to.equal(100);
  });

  it('counts what took longer than any bound, and rises from bound to bound', () => {
    const histogram = emptyHistogram();
    addTo(histogram, 10 * 24 * HOUR);
    expect(quantile(histogram, 0.5)).to.be.above(BOUNDS.at(-1)!);
    expect([...BOUNDS].sort((a, b) => a - b)).to.deep.equal(BOUNDS);
  });
});

describe('sums of runs', () => {
  const data = temporary();
  const database = openDatabase(join(data, 'runs.db'), 'runs');
  const open: MetricStore[] = [];
  const metricStore = () => {
    open.push(new MetricStore(database));
    return open.at(-1)!;
  };
  after(() => {
    for (const one of open) one.close();
    database.driver.close();
    discard(data);
  });
  const now = 500_000 * HOUR + 1000;
  const count = (
    metrics: MetricStore,
    more: Partial<RunHead>,
    state: 'done' | 'failed',
    took: number,
    spans: Span[] = [],
  ) => {
    const sums = new RunSums(head({ startedAt: now - took, ...more }));
    for (const span of spans) sums.take(span);
    metrics.count(sums, state, now);
  };

  it('outlive the service, and go on where they were', async () => {
    const first = metricStore();
    count(first, {}, 'done', 10, [call(7)]);
    count(first, {}, 'failed', 90, [call(80, { error: { code: 'internal', message: '', hint: '' } })]);
    first.close();
    const second = metricStore();
    count(second, {}, 'done', 10);
    expect((await second.read('flow', 2, now))[0]).to.deep.include({
      name: 'send-load',
      runs: 3,
      failed: 1,
      p50: 10,
      p95: 100,
    });
    expect((await second.read('tool', 2, now))[0]).to.deep.include({ name: 'schedule_load', runs: 2, failed: 1 });
    expect((await second.read('server', 2, now))[0]).to.deep.include({ name: 'lift', runs: 2 });
    expect(await second.read('flow', 2, now + 5 * HOUR)).to.deep.equal([]);
    first.count(new RunSums(head()), 'done', now);
    second.flush();
    expect((await first.read('flow', 2, now))[0]!.runs, 'nothing is counted once it is closed').to.equal(3);
  });

  it('count a run that another one began for its flow alone', async () => {
    const metrics = metricStore();
    const before = (await metrics.read('caller', 2, now))[0]!.runs;
    count(metrics, { parentRun: 'r0', flow: 'inner' }, 'done', 4);
    expect((await metrics.read('flow', 2, now)).map(({ name }) => name)).to.include('inner');
    expect((await metrics.read('caller', 2, now))[0]!.runs).to.equal(before);
  });

  it('are told to whoever scrapes, with names that hold anything', () => {
    const metrics = metricStore();
    count(metrics, { flow: 'a"b\\c\nd' }, 'failed', 4);
    const text = metricsText(metrics, { problems_open: 2 });
    expect(text).to.contain('pindro_problems_open 2\n');
    expect(text).to.contain('pindro_flow_total{flow="a\\"b\\\\c\\nd",outcome="failed"} 1\n');
    expect(text.split('\n').every((line) => line === '' || /^(#|pindro_)/.test(line))).to.equal(true);
  });
});

describe('a change of a document at one place', () => {
  const document = () => ({ steps: { say: { with: { list: [1, 2], 'a/b': 'x' } } } });

  it('is made where what was seen is still there', () => {
    const one = document();
    setAt(one, '/steps/say/with/list/1', 2, 3);
    setAt(one, '/steps/say/with/a~1b', 'x', 'y');
    setAt(one, '/steps/say/with/fresh', null, true);
    expect(one.steps.say.with).to.deep.equal({ list: [1, 3], 'a/b': 'y', fresh: true });
  });

  it('is refused where it is another, or not there, and touches no prototype', () => {
    const refused = (at: string, from: unknown) => () => setAt(document(), at, from as never, 1);
    expect(refused('/steps/say/with/list/1', 9)).to.throw('has changed');
    expect(refused('/steps/tell/with/list', null)).to.throw('has changed');
    expect(refused('/__proto__/polluted', null)).to.throw('has changed');
    expect(({} as { polluted?: unknown }).polluted).to.equal(undefined);
  });
});

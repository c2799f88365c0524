import { EventEmitter } from 'node:events';
import { join } from 'node:path';
import { PindroError } from '@pindro/core';
import { Bus } from '@pindro/service';
import {
  CallQuota,
  EndpointLog,
  EventStream,
  Kept,
  MetricStore,
  openDatabase,
  RunWatch,
  scopedTools,
  usageOf,
} from '@pindro/service/parts';
import { expect } from 'chai';
import { discard, temporary } from '../support/workspace.js';

/** As much of a response as a stream writes to. */
class Sink extends EventEmitter {
  text = '';
  ended = false;
  writableLength = 0;
  writeHead = () => this;
  flushHeaders = () => {};
  write = (piece: string) => {
    this.text += piece;
    return true;
  };
  end = () => {
    this.ended = true;
    this.emit('close');
  };
  destroy = () => this.end();
}
const note = (text: string) => ({ jsonrpc: '2.0' as const, method: 'notifications/message', params: { data: text } });

describe('a stream of events', () => {
  it('tells what came after the last event seen, also when it has ended meanwhile', () => {
    const stream = new EventStream('s', Kept.forAll().forKey().forSession());
    const first = new Sink();
    stream.attach(first as never, null);
    expect(first.text).to.match(/^id: s_0\nretry: \d+\ndata: \n\n$/);
    stream.send(note('one'));
    first.emit('close');
    stream.send(note('two'));
    stream.send(note('three'));
    stream.end();
    const second = new Sink();
    stream.attach(second as never, 1);
    expect([...second.text.matchAll(/id: (\S+)/g)].map((match) => match[1])).to.deep.equal(['s_2', 's_3']);
    expect(second.ended).to.equal(true);
  });

  it('keeps only so much for a client that is away, the newest', () => {
    const stream = new EventStream('s', Kept.forAll().forKey().forSession());
    for (let i = 0; i < 700; i++) stream.send(note(`event ${i}`));
    const sink = new Sink();
    stream.attach(sink as never, 0);
    const ids = [...sink.text.matchAll(/id: s_(\d+)/g)].map((match) => Number(match[1]));
    expect([ids[0], ids.at(-1), ids.length]).to.deep.equal([201, 700, 500]);
  });

  it('cuts off a client that does not read, which may come again', () => {
    const stream = new EventStream('s', Kept.forAll().forKey().forSession());
    const sink = new Sink();
    stream.attach(sink as never, null);
    sink.writableLength = 64 * 1024 * 1024;
    stream.send(note('one'));
    expect(sink.ended).to.equal(true);
    expect(stream.attached).to.equal(false);
  });
});

describe('what a key may do', () => {
  const tool = (name: string, readOnlyHint: boolean) => ({ name, annotations: { readOnlyHint } }) as never;
  const tools = [tool('look', true), tool('book', false)];
  const names = (list: readonly { name: string }[]) => list.map(({ name }) => name);

  it('is a part of the list, the same one as long as nothing changes', () => {
    expect(scopedTools(tools, { tools: null, readOnly: false, propose: false })).to.equal(tools);
    expect(names(scopedTools(tools, { tools: null, readOnly: true, propose: false }))).to.deep.equal(['look']);
    expect(names(scopedTools(tools, { tools: ['book'], readOnly: true, propose: false }))).to.deep.equal([]);
    const scope = { tools: ['book'], readOnly: false, propose: false };
    expect(scopedTools(tools, scope)).to.equal(scopedTools(tools, { ...scope }));
  });

  it('is counted by the minute, for each key by itself', async () => {
    const quota = new CallQuota();
    const key = (id: string) => ({ id, name: id, perMinute: 2 }) as never;
    await quota.spend(key('a'));
    await quota.spend(key('a'));
    const refused: unknown = await quota.spend(key('a')).catch((error: unknown) => error);
    expect(refused).to.be.instanceOf(PindroError).with.property('code', 'key_busy');
    expect((refused as PindroError).message + (refused as PindroError).hint).to.match(/2 .*Retry in (60|59) s/s);
    await quota.spend(key('b'));
  });
});

describe('what happens on an endpoint', () => {
  it('is kept, the newest first and only so much, and told in one go', async () => {
    const bus = new Bus();
    const told: string[] = [];
    bus.on('changed', (what, name) => void told.push(`${what} ${name}`));
    const endpointLog = new EndpointLog(bus);
    for (let i = 0; i < 80; i++)
      endpointLog.note('huts', () => ({ kind: 'called', client: 'c', text: `call ${i}`, run: null }));
    expect(endpointLog.of('huts').map(({ text }) => text))
      .to.have.lengthOf(50)
      .and.include('call 79')
      .and.not.include('call 29');
    expect(endpointLog.of('huts')[0]!.text).to.equal('call 79');
    await new Promise((resolve) => setTimeout(resolve, 400));
    expect(told).to.deep.equal(['client huts']);
  });

  it('is handed only to who follows the run, and to nobody else on the bus', () => {
    const bus = new Bus();
    const watch = new RunWatch(bus);
    const seen: string[] = [];
    const letGo = watch.follow('r1', (live) => void seen.push(live.kind));
    const live = { kind: 'step', path: 'a', state: 'done' } as const;
    bus.emit('live', { run: 'r1', trace: 't', live });
    bus.emit('live', { run: 'r2', trace: 't', live });
    letGo();
    bus.emit('live', { run: 'r1', trace: 't', live });
    expect(seen).to.deep.equal(['step']);
    expect(bus.listenerCount('live')).to.equal(0);
  });

  it('is counted by tool, caller, time and refused argument, out of sums', async () => {
    const now = 1_000_000_000_000;
    const hour = 60 * 60_000;
    const directory = temporary();
    const metrics = new MetricStore(openDatabase(join(directory, 'runs.db'), 'runs'));
    const call = (tool: string, caller: string, ago: number, took: number, refused: string | null = null) => ({
      ...{ endpoint: 'huts', tool, caller, refused, at: now - ago, took, failed: refused !== null },
    });
    metrics.takeIn([
      ...Array.from({ length: 19 }, (_, i) => call('look', i % 3 === 0 ? 'ines' : 'tobias', hour, 10)),
      call('look', 'ines', 2 * hour, 500),
      call('book', 'ines: "the warden"', 30 * hour, 4, 'night'),
      call('book', 'ines: "the warden"', 30 * hour, 4, 'night'),
      call('book', 'ines: "the warden"', 30 * hour, 4, 'party'),
      { ...call('look', 'ines', hour, 10), endpoint: 'another' },
      call('look', 'ines', 9 * 24 * hour, 10),
    ]);
    const usage = usageOf(await metrics.use(['huts'], now - 7 * 24 * hour), 7, now);
    expect(usage.tools.map(({ tool, calls, failed, p50, p95 }) => [tool, calls, failed, p50, p95])).to.deep.equal([
      ['look', 20, 0, 10, 10],
      ['book', 3, 3, 5, 5],
    ]);
    expect(usage.tools[0]!.callers).to.deep.equal([
      { caller: 'tobias', calls: 12 },
      { caller: 'ines', calls: 8 },
    ]);
    expect(usage.tools[1]!.callers).to.deep.equal([{ caller: 'ines: "the warden"', calls: 3 }]);
    expect(usage.tools[1]!.refused).to.deep.equal([
      { argument: 'night', times: 2 },
      { argument: 'party', times: 1 },
    ]);
    expect(usage.over).to.have.lengthOf(28);
    expect(usage.over.at(-1)).to.include({ calls: 20, failed: 0 });
    expect(usage.over.reduce((sum, part) => sum + part.failed, 0)).to.equal(3);
    expect(usageOf([], 7, now).total).to.include({ calls: 0, p50: null, p95: null });
    // Many callers in many hours are more than may wait at once.
    const hours = Array.from({ length: 600 }, (_, index) => index % 160);
    metrics.takeIn(hours.flatMap((ago, index) => [0, 1, 2].map((n) => call('many', `c${index}-${n}`, ago * hour, 1))));
    const many = usageOf(await metrics.use(['huts'], now - 7 * 24 * hour), 7, now).tools.find(
      ({ tool }) => tool === 'many',
    );
    expect(many!.calls).to.equal(1800);
    metrics.close();
    discard(directory);
  });
});

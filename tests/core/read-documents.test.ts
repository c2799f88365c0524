import type { Span } from '@pindro/core';
import {
  criticalPath,
  momentsOf,
  spanStateIn,
  spanStatesAt,
  TraceTree,
  transcriptsOf,
  waysUp,
} from '@pindro/core/browser';
import { expect } from 'chai';

const span = (
  spanId: string,
  parentId: string | null,
  start: number,
  end: number | null,
  more: Partial<Span> = {},
): Span => ({
  ...{ traceId: 't', spanId, parentId, run: 'r', work: 'step', name: spanId, start, end, status: 'ok', attributes: {} },
  ...more,
});

describe('reading a trace', () => {
  it('is a tree in the order of its begins, whose parents may never have come and may be a circle', () => {
    const tree = new TraceTree([
      span('b', 'root', 5, 9),
      span('root', null, 0, 10),
      span('a', 'root', 1, 4),
      span('deep', 'a', 2, 3),
      span('lost', 'nobody', 6, 7),
      span('x', 'y', 1, 2),
      span('y', 'x', 1, 2),
    ]);
    expect(tree.rows().map(({ span: { spanId }, depth, below }) => [spanId, depth, below])).to.deep.equal([
      ...[
        ['root', 0, 3],
        ['a', 1, 1],
        ['deep', 2, 0],
        ['b', 1, 0],
        ['lost', 0, 0],
      ],
      ...[
        ['x', 0, 1],
        ['y', 1, 0],
      ],
    ]);
    expect(waysUp(tree.spans)('deep')).to.deep.equal(['a', 'root']);
    expect(waysUp(tree.spans)('x')).to.deep.equal(['y', 'x']);
  });

  it('knows what the run waited for: of what ran side by side the part that ended last', () => {
    const path = criticalPath([
      span('root', null, 0, 100),
      span('quick', 'root', 10, 40),
      span('slow', 'root', 10, 80),
      span('inside', 'slow', 20, 70),
      span('last', 'root', 82, 95),
      span('after all', 'root', 100, 100),
    ]);
    expect([...path.keys()]).to.have.members(['root', 'slow', 'inside', 'last']);
    // What it took by itself adds up to the whole.
    expect(path.get('slow')).to.equal(20);
    expect(path.get('root')).to.equal(10 + 2 + 5);
    expect([...path.values()].reduce((sum, own) => sum + own, 0)).to.equal(100);
    expect(criticalPath([])).to.have.property('size', 0);
    expect([...criticalPath([span('still', null, 5, null)]).values()]).to.deep.equal([0]);
  });

  it('is gone through moment by moment, what stands above first', () => {
    const spans = [
      span('root', null, 0, 10),
      span('a', 'root', 0, 10),
      span('b', 'root', 4, null, { status: 'running' }),
    ];
    expect(momentsOf(spans).map(({ span: { spanId }, what, at }) => `${at} ${spanId} ${what}`)).to.deep.equal([
      ...['0 root begins', '0 a begins', '4 b begins', '10 a ends', '10 root ends'],
    ]);
    const moments = momentsOf(spans);
    // What begins and ends within the same millisecond is told apart by its order.
    const states = (index: number) => spans.map(({ spanId }) => spanStateIn(spanStatesAt(moments, index), spanId));
    expect(states(0)).to.deep.equal(['running', 'pending', 'pending']);
    expect(states(2)).to.deep.equal(['running', 'running', 'running']);
    expect(states(4)).to.deep.equal(['over', 'over', 'running']);
    expect(spanStatesAt([], 0).at).to.equal(0);
  });

  it('tells a conversation as its model saw it, with what came after the last question', () => {
    const model = (id: string, at: number, input: unknown, output: unknown) =>
      span(id, 'agent', at, at + 1, { work: 'model', input: input as never, output: output as never });
    const told = [
      { role: 'system', text: 'Help.' },
      { role: 'user', text: 'Earlier?' },
      { role: 'assistant', text: 'Yes.', calls: [] },
      { role: 'user', text: 'And now?' },
    ];
    const asked = { role: 'assistant', text: '', calls: [{ id: 'c1', name: 'look', arguments: { hut: 'larch' } }] };
    const spans = [
      span('agent', null, 0, 10, { work: 'agent', input: 'And now?', attributes: { 'pindro.model': 'house' } }),
      model('m1', 1, told, asked),
      span('t1', 'agent', 3, 4, { work: 'tool', output: { free: 3 }, attributes: { 'gen_ai.tool.name': 'look' } }),
      model('m2', 5, { cut: true, characters: 99999, beginning: '' }, { role: 'assistant', text: 'Three.', calls: [] }),
    ];
    const [talk] = transcriptsOf(spans);
    expect(talk!.messages.map(({ role, text, earlier, span: at }) => [role, text, earlier, at])).to.deep.equal([
      ['system', 'Help.', false, null],
      ['user', 'Earlier?', true, null],
      ['assistant', 'Yes.', true, null],
      ['user', 'And now?', false, null],
      ['assistant', '', false, 'm1'],
      ['tool', '{"free":3}', false, 't1'],
      ['assistant', 'Three.', false, 'm2'],
    ]);
    // Where nothing that was sent is known, the question and what was said are.
    const [cut] = transcriptsOf(spans.map((one) => (one.work === 'model' ? { ...one, input: { cut: true } } : one)));
    expect(cut!.isCut).to.equal(true);
    expect(cut!.messages.map(({ role }) => role)).to.deep.equal(['user', 'assistant', 'tool', 'assistant']);
  });
});

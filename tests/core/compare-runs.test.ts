import { attribute, compareRunTraces, type Span } from '@pindro/core';
import { expect } from 'chai';

let made = 0;
const span = (work: Span['work'], name: string, more: Partial<Span> = {}): Span => ({
  ...{ traceId: 't', spanId: `s${++made}`, parentId: null, run: 'r', work, name, start: 0, end: 5, status: 'ok' },
  ...{ attributes: work === 'step' ? { [attribute.path]: name } : {}, ...more },
});
const error = { code: 'step_failed', message: 'no room', hint: '' } as const;

describe('two runs beside one another', () => {
  it('are alike where nothing differs but the time it took', () => {
    const rows = compareRunTraces(
      [span('step', 'find', { output: { a: 1, b: 2 } })],
      [span('step', 'find', { output: { b: 2, a: 1 }, end: 900 })],
    );
    expect(rows).to.have.length(1);
    expect(rows[0]).to.deep.include({ what: 'find', work: 'step', differs: [] });
    expect(rows[0]!.one!.took).to.equal(5);
    expect(rows[0]!.other!.took).to.equal(900);
  });

  it('say in what each step differs', () => {
    const one = span('step', 'book', { input: { party: 5 }, output: null, status: 'error', error });
    const other = span('step', 'book', { input: { party: 2 }, output: { id: 1 } });
    expect(compareRunTraces([one], [other])[0]!.differs).to.deep.equal(['status', 'input', 'output', 'error']);
  });

  it('tell what only one of them has, in its place', () => {
    const left = ['find', 'book', 'mail'].map((name) => span('step', name));
    const right = ['find', 'ask', 'book', 'wait'].map((name) => span('step', name));
    const rows = compareRunTraces(left, right);
    expect(rows.map(({ what }) => what)).to.deep.equal(['find', 'ask', 'book', 'wait', 'mail']);
    expect(rows.filter(({ differs }) => differs.includes('came')).map(({ what }) => what)).to.deep.equal([
      'ask',
      'wait',
      'mail',
    ]);
    expect(rows[1]!.one).to.equal(null);
    expect(rows[4]!.other).to.equal(null);
  });

  it('count attempts, and calls of a tool under their step', () => {
    const desk = span('step', 'desk');
    const call = (output: string) =>
      span('tool', 'execute_tool weather', {
        ...{ parentId: desk.spanId, output, attributes: { [attribute.tool]: 'weather' } },
      });
    const rows = compareRunTraces([desk, call('snow'), call('sun')], [desk, call('snow'), call('rain')]);
    expect(rows.map(({ what }) => what)).to.deep.equal(['desk', 'desk › weather', 'desk › weather (2)']);
    expect(rows.map(({ differs }) => differs)).to.deep.equal([[], [], ['output']]);
    const twice = compareRunTraces([span('step', 'send'), span('step', 'send')], [span('step', 'send')]);
    expect(twice.map(({ what }) => what)).to.deep.equal(['send', 'send (2)']);
  });

  it('leave out what is no work of its own, and bear parents that never came', () => {
    const lost = span('tool', 'x', { parentId: 'nobody', attributes: { [attribute.tool]: 'x' } });
    expect(compareRunTraces([span('run', 'r'), span('item', 'i'), lost], []).map(({ what }) => what)).to.deep.equal([
      ' › x',
    ]);
  });
});

import { attribute, isRemarkable, momentOfTrace, newTraceId, PindroError, type Span } from '@pindro/core';
import { expect } from 'chai';

const span = (work: Span['work'], more: Partial<Span> = {}): Span => ({
  ...{ traceId: 't', spanId: 's', parentId: null, run: 'r', work, name: 'x', start: 0, end: 1, status: 'ok' },
  ...{ attributes: {}, ...more },
});

describe('what a diagnosis looks at', () => {
  it('is no run that went well', () => {
    for (const work of ['run', 'step', 'tool', 'model', 'agent', 'item', 'memory'] as const)
      expect(isRemarkable(span(work, { output: { count: 3, rows: [{}] } })), work).to.equal(false);
    const way = { attributes: { [attribute.kind]: 'choose', [attribute.branch]: 'heavy' } };
    expect(isRemarkable(span('step', way))).to.equal(false);
  });

  it('is whatever failed, found nothing, was left out, or was not offered', () => {
    const error = new PindroError('internal', { reference: 'x' }).toRecord();
    expect(isRemarkable(span('tool', { error }))).to.equal(true);
    expect(isRemarkable(span('step', { output: { count: 0, rows: [] } }))).to.equal(true);
    expect(isRemarkable(span('step', { output: { refused: ['a@huts.example'] } }))).to.equal(true);
    expect(isRemarkable(span('tool', { output: { cut: true, characters: 99_999, beginning: '[' } }))).to.equal(true);
    expect(isRemarkable(span('tool', { attributes: { [attribute.cutTo]: { shown: 1, of: 2 } } }))).to.equal(true);
    expect(isRemarkable(span('model', { attributes: { [attribute.leftOut]: ['x'] } }))).to.equal(true);
    expect(isRemarkable(span('agent', { attributes: { [attribute.tools]: [] } }))).to.equal(true);
    const way = { attributes: { [attribute.kind]: 'choose', [attribute.branch]: 'otherwise' } };
    expect(isRemarkable(span('step', way))).to.equal(true);
  });
});

describe('a trace id', () => {
  it('is one of W3C Trace Context, and holds the moment in which it was made', () => {
    const moment = Date.UTC(2027, 1, 13, 9);
    const id = newTraceId(moment);
    expect(id).to.match(/^[0-9a-f]{32}$/);
    expect(momentOfTrace(id)).to.equal(moment);
    expect(newTraceId(moment)).to.not.equal(id);
  });
});

import type { Span } from '@pindro/core';
import { readSpans, restoreRemoved, writeSpans } from '@pindro/service/parts';
import { expect } from 'chai';

const OF = { traceId: 't'.repeat(32), run: 'r1' };
const span = (spanId: string, parentId: string | null, more: Partial<Span> = {}): Span => ({
  ...{ ...OF, spanId, parentId, work: 'step', name: 'lift', start: 1000, end: 1005, status: 'ok', attributes: {} },
  ...more,
});
const never = () => expect.fail('nothing is long');

describe('spans as they are written', () => {
  it('come back as they were, whatever they have and lack', () => {
    const error = { code: 'timed_out' as const, message: 'late', hint: 'wait' };
    const spans = [
      span('root', 'elsewhere', { work: 'run', attributes: { 'pindro.stage': 'live', 'pindro.revision': null } }),
      span('a', 'root', { input: null, output: 0, start: 990, end: 980 }),
      span('b', 'a', {
        status: 'error',
        error,
        attributes: { 'gen_ai.tool.name': 'x', '#odd': 1, own: { deep: [1] } },
      }),
      span('c', 'later', { end: null, status: 'running', work: 'memory', input: '', output: false }),
      span('later', null, { status: 'skipped', start: 1000.5, end: 1000.75 }),
    ];
    const text = writeSpans(spans, never);
    expect(readSpans(text, OF)).to.deep.equal(spans);
    expect(text).to.not.contain(OF.traceId).and.not.contain('gen_ai.tool.name');
    expect(readSpans(writeSpans([], never), OF)).to.deep.equal([]);
  });

  it('keep what is long elsewhere, by its hash', () => {
    const kept = new Map<string, string>();
    const long = { text: 'snow '.repeat(1000) };
    const [back] = readSpans(
      writeSpans([span('a', null, { output: long, input: 1 })], (hash, body) => void kept.set(hash, body)),
      OF,
    );
    expect(back).to.include({ input: 1 }).and.not.have.property('output');
    expect(JSON.parse(kept.get(back!.stored!.output!)!)).to.deep.equal(long);
    const offered = [{ name: 'book', description: 'snow '.repeat(1000) }];
    const model = span('m', null, { attributes: { 'pindro.model': 'house', 'pindro.offered': offered } });
    const [told] = readSpans(
      writeSpans([model], (hash, body) => void kept.set(hash, body)),
      OF,
    );
    expect(told!.attributes).to.deep.equal({ 'pindro.model': 'house' });
    expect(restoreRemoved(told!, kept)).to.deep.equal(model);
  });

  it('are read as earlier versions wrote them', () => {
    const { traceId: _, run: __, ...bare } = span('a', null, { input: { hut: 'larch' } });
    expect(readSpans(JSON.stringify([bare]), OF)).to.deep.equal([span('a', null, { input: { hut: 'larch' } })]);
    const whole = { ...bare, traceId: 'other', run: 'r0' };
    expect(readSpans(JSON.stringify([whole]), OF)).to.deep.equal([whole]);
    expect(readSpans('[]', OF)).to.deep.equal([]);
  });
});

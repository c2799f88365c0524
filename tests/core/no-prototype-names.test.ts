import {
  blamedArguments,
  cutTemplate,
  didYouMean,
  findUnsafe,
  graphOf,
  humanDuration,
  milliseconds,
  nearest,
  newRunId,
  newSpanId,
  newTraceId,
  pointer,
  pointerParts,
  readSource,
  readTraceContext,
  resultText,
  today,
  traceFields,
  valueAt,
} from '@pindro/core';
import { expect } from 'chai';

describe('plain values', () => {
  it('durations are read with their unit and told as people say them', () => {
    expect(['500ms', '10s', '1.5s', '2m', '1h', '1d'].map(milliseconds)).to.deep.equal([
      500, 10_000, 1500, 120_000, 3_600_000, 86_400_000,
    ]);
    for (const text of ['10', '10 s', 's', '-1s', '1w'])
      expect(() => milliseconds(text), text).to.throw('is not a duration');
    expect([0.2, 12.4, 1449, 12_000, 125_000].map(humanDuration)).to.deep.equal([
      '<1 ms',
      '12 ms',
      '1.4 s',
      '12 s',
      '2 m 5 s',
    ]);
  });

  it('pointers escape what they must and read it back', () => {
    const parts = ['steps', 'a/b', 'c~d', '0'];
    expect(pointer(parts)).to.equal('/steps/a~1b/c~0d/0');
    expect(pointerParts(pointer(parts))).to.deep.equal(parts);
    expect(valueAt({ steps: { 'a/b': [1, { x: null }] } }, ['steps', 'a/b', 1, 'x'])).to.equal(null);
    expect(valueAt({ a: 1 }, ['a', 'b'])).to.equal(undefined);
  });

  it('what JSON carries wrongly is found wherever it hides', () => {
    expect(findUnsafe({ a: [1, { b: 2 ** 53 }] })).to.deep.include({ at: '/a/1/b' });
    expect(findUnsafe({ a: -(2 ** 53) })).to.deep.include({ at: '/a' });
    expect(findUnsafe({ a: 2 ** 53 - 1, b: 1e300 / 3, c: 'x'.repeat(9999) })).to.have.property('at', '/b');
    expect(findUnsafe({ a: 2 ** 53 - 1, b: 0.1, c: null })).to.equal(undefined);
    let deep: unknown = 1;
    for (let level = 0; level < 100_000; level++) deep = [deep];
    expect(findUnsafe(deep)!.why).to.contain('nested deeper');
  });

  it('mistyped names find the one that was meant', () => {
    const known = ['hut', 'night', 'party', 'weight_kg'];
    expect([
      nearest('huts', known),
      nearest('nigth', known),
      nearest('Party', known),
      nearest('weight', known),
      nearest('zzz', known),
    ]).to.deep.equal(['hut', 'night', 'party', 'weight_kg', undefined]);
    expect(didYouMean('zzz', known)).to.contain('Known: hut, night');
    expect(didYouMean('x', [])).to.equal('None exist yet.');
  });

  it('ids have the shape of W3C trace context, and run ids sort by time', () => {
    expect(newTraceId()).to.match(/^[0-9a-f]{32}$/);
    expect(newSpanId()).to.match(/^[0-9a-f]{16}$/);
    expect(new Set(Array.from({ length: 5000 }, newSpanId)).size).to.equal(5000);
    const [earlier, later] = [newRunId(1_800_000_000_000), newRunId(1_800_000_000_001)];
    expect(earlier < later).to.equal(true);
    const [traceId, spanId] = [newTraceId(), newSpanId()];
    const context = { traceId, parentSpan: spanId };
    const read = (parent: unknown, state?: unknown) => readTraceContext(parent, state);
    const fields = traceFields({ traceId, traceState: 'a=1' }, spanId);
    expect(read(fields.traceparent, fields.tracestate)).to.deep.equal({ ...context, traceState: 'a=1' });
    // Later versions may add fields; version 00 has none, and ff is no version.
    for (const parent of [`cc-${traceId}-${spanId}-01`, `01-${traceId}-${spanId}-01-later`])
      expect(read(parent), parent).to.deep.equal(context);
    expect(read(fields.traceparent, ' a=1 , t@v=x y ,, b=2')?.traceState).to.equal('a=1,t@v=x y,b=2');
    for (const state of ['a=1,a=2', 'A=1', 'a', 'a=é', Array.from({ length: 33 }, (_, n) => `k${n}=1`).join(), 7])
      expect(read(fields.traceparent, state), String(state)).to.deep.equal(context);
    const long = Array.from({ length: 8 }, (_, n) => `k${n}=${'x'.repeat(100)}`);
    expect(read(fields.traceparent, long.join())?.traceState).to.equal(long.slice(0, 4).join());
    for (const text of [
      `ff-${traceId}-${spanId}-01`,
      `00-${traceId}-${spanId}-01-more`,
      `01-${traceId}-${spanId}-01more`,
      `00-${traceId.toUpperCase()}x-${spanId}-01`,
      '',
      'x',
      `00-${'0'.repeat(32)}-${spanId}-01`,
      `00-${traceId}-${'0'.repeat(16)}-01`,
      5,
      undefined,
    ])
      expect(read(text), String(text)).to.equal(undefined);
  });

  it('the day is that of the time zone', () => {
    const moment = Date.parse('2027-02-14T23:30:00Z');
    expect(today(moment, 'UTC')).to.equal('2027-02-14');
    expect(today(moment, 'Asia/Tokyo')).to.equal('2027-02-15');
    expect(today(moment, 'America/Lima')).to.equal('2027-02-14');
    expect(today(moment + 3_600_000, 'UTC')).to.equal('2027-02-15');
  });

  it('a source knows where everything stands', () => {
    const source = readSource('# a comment\nsteps:\n  a:\n    after: [x, "y.no"]\n    with: {text: hello}\n');
    const at = (pointer: string) => {
      const { line, column } = source.locate({ at: pointer, message: '' });
      return `${line}:${column}`;
    };
    expect(
      ['/steps', '/steps/a', '/steps/a/after/1', '/steps/a/with/text', '/steps/a/with/missing', '/steps/b'].map(at),
    ).to.deep.equal(['2:1', '3:3', '4:16', '5:12', '5:5', '2:1']);
    expect(readSource('a: *nothing').mistakes[0]!.message).to.contain('nothing');
    expect(readSource('a: &x [1]\nb: *x').value).to.deep.equal({ a: [1], b: [1] });
  });

  it('a graph finds its cycle and its ends', () => {
    const step = (after: string[]) => ({ kind: 'text', after });
    const graph = graphOf({ a: step([]), b: step(['a.yes']), c: step(['b', 'a', 'nowhere']) });
    expect(graph.cycle).to.equal(null);
    expect(graph.before.get('c')).to.deep.equal([
      { from: 'b', branch: null },
      { from: 'a', branch: null },
    ]);
    expect(graph.next.get('a')).to.deep.equal(['b', 'c']);
    expect(graphOf({ a: step(['a']) }).cycle).to.deep.equal(['a']);
  });

  it('a template is cut at its expressions', () => {
    expect(cutTemplate('a ${ b } c')).to.deep.equal([
      { literal: 'a ' },
      { expression: 'b', offset: 4 },
      { literal: ' c' },
    ]);
    expect(cutTemplate('$${x} ${ {"k": "}"} }')).to.deep.equal([
      { literal: '${x} ' },
      { expression: '{"k": "}"}', offset: 8 },
    ]);
    expect(() => cutTemplate('${ open')).to.throw('not closed');
  });

  it('tool results are told to a model as text', () => {
    const read = (content: object[], structuredContent?: object) =>
      resultText({
        content: content as never,
        isError: false,
        ...(structuredContent && { structuredContent: structuredContent as never }),
      });
    expect(
      read([
        { type: 'text', text: 'a' },
        { type: 'image', mimeType: 'image/png' },
        { type: 'resource_link', name: 'map', uri: 'hut://map' },
      ]),
    ).to.equal('a\n(image, image/png)\nmap: hut://map');
    expect(read([], { free: 3 })).to.equal('{"free":3}');
    expect(read([])).to.equal('(nothing)');
  });

  it('an error text blames the arguments it speaks of, by value before name', () => {
    const args = { hut: 'larch', weight_kg: 400, day: '2027-02-14', urgent: true };
    expect(blamedArguments(args, 'at most 350 kg; got 400')).to.deep.equal(['weight_kg']);
    expect(blamedArguments(args, 'the weight is too much for larch')).to.deep.equal(['hut', 'weight_kg']);
    expect(blamedArguments(args, 'day must be later')).to.deep.equal(['day']);
    expect(blamedArguments(args, 'something broke')).to.deep.equal([]);
  });
});

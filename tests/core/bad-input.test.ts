import { checkFlow, type Json, readSource, validate } from '@pindro/core';
import { expect } from 'chai';
import { parse } from 'yaml';
import { used } from '../support/patience.js';

const first = (text: string) => {
  const begun = used();
  const { mistakes } = checkFlow(text);
  return { ...mistakes[0]!, count: mistakes.length, took: used() - begun };
};
const flow = (steps: string) => `format: pindro/flow@1\nname: x\nsteps:\n${steps}`;

describe('a flow document that is not one', () => {
  it('tells where the notation of YAML or JSON is wrong', () => {
    expect(first(flow('  a: { kind: text'))).to.include({ line: 4 });
    expect(first('{ "format": "pindro/flow@1", "name": }').message).to.be.a('string');
    expect(first('')).to.have.property('message').that.contains('A flow needs');
    expect(first(flow('  a: { kind: text }\n  a: { kind: text }')).message).to.contain('"a" occurs twice');
  });

  it('is refused when it nests without end, or grows by its own aliases', () => {
    expect(
      first(flow(`  a: { kind: shape, with: { value: ${'['.repeat(200)}1${']'.repeat(200)} } }`)).message,
    ).to.match(/nested deeper/);
    const levels = Array.from(
      { length: 12 },
      (_, index) =>
        `l${index}: &l${index} [${Array(9)
          .fill(index === 0 ? 'x' : `*l${index - 1}`)
          .join(',')}]`,
    );
    const bomb = first(`${levels.join('\n')}\n${flow('  a: { kind: text }')}`);
    expect(bomb.message).to.match(/alias/i);
    expect(bomb.took).to.be.lessThan(2000);
  });

  it('is refused unread when it is longer than anybody waits for', () => {
    const long = first(flow(`  a: { kind: text, with: { text: "${'x'.repeat(10 * 1024 * 1024)}" } }`));
    expect(long.message).to.equal('A flow document holds at most 2 MiB, not 10.0');
    expect(long.took).to.be.lessThan(500);
  });

  it('is refused with a word on what to do when it has too many steps', () => {
    const steps = Array.from({ length: 6000 }, (_, index) => `"s${index}":{"kind":"text","with":{"text":"x"}}`);
    const { mistakes } = checkFlow(JSON.parse(`{"format":"pindro/flow@1","name":"x","steps":{${steps.join(',')}}}`));
    expect(mistakes).to.have.length(1);
    expect(mistakes[0]).to.deep.include({ at: '/steps', message: 'A flow holds at most 5000 steps, not 6000' });
  });

  it('is refused when it holds more than one may hold, however that is written', () => {
    const flow = (list: string) =>
      `{"format":"pindro/flow@1","name":"x","steps":{"a":{"kind":"shape","with":{"value":${list}}}}}`;
    const many = flow(`[${'1,'.repeat(110_000)}1]`);
    const long = flow(JSON.stringify('x'.repeat(2 * 1024 * 1024)));
    for (const [text, message] of [
      [many, 'A flow document holds at most 100000 values'],
      [long, 'A flow document holds at most 2 MiB, not 2.0'],
    ] as const)
      for (const written of [text, JSON.parse(text)]) expect(checkFlow(written).mistakes[0]).to.include({ message });
  });

  it('tells the first hundred of its mistakes, whichever they are', () => {
    const flow = (step: string) =>
      `format: pindro/flow@1\nname: x\nsteps:\n${Array.from({ length: 300 }, (_, n) => `  s${n}: ${step}`).join('\n')}\n`;
    for (const step of [
      '{ kind: nothing }',
      '{ kind: text, with: { text: x }, after: [nobody] }',
      '{ kind: text, with: { text: "${ 1 + }" } }',
      '{ kind: text, with: { text: x }, odd: 1 }',
    ])
      expect(checkFlow(flow(step)).mistakes, step).to.have.length(100);
  });

  it('says in words that it is nested too deeply, once', () => {
    for (const text of [`a: ${'['.repeat(30_000)}`, `a: ${'['.repeat(5000)}${']'.repeat(5000)}`]) {
      const { mistakes } = checkFlow(text);
      expect(mistakes).to.have.length.within(1, 100);
      expect(mistakes[0]!.message).to.contain('nested');
      expect(JSON.stringify(mistakes)).not.to.contain('call stack');
    }
  });

  it('may name itself before it is kept', () => {
    const text = 'format: pindro/flow@1\nname: x\nsteps:\n  a: { kind: flow, with: { flow: x } }\n';
    expect(checkFlow(text, { flows: [] }).mistakes).to.deep.equal([]);
    expect(checkFlow(text.replace('flow: x', 'flow: y'), { flows: [] }).mistakes).to.have.length(1);
  });

  it('refuses names that mean something else, or that stand outside of a loop already', () => {
    expect(first(flow('  error: { kind: text, with: { text: x } }')).message).to.contain('may not be named "error"');
    expect(
      first(
        flow(
          '  a: { kind: text, with: { text: x } }\n  e: { kind: each, with: { list: [1], steps: { a: { kind: text, with: { text: y } } } } }',
        ),
      ),
    ).to.include({ at: '/steps/e/with/steps/a', line: 5 });
    expect(first(flow('  Big: { kind: text }')).message).to.contain('lower-case');
  });
});

describe('the two readers of YAML', () => {
  const TEXTS = [
    'a: 1\nb: 0o17\nc: 0x1f\nd: 1e3\ne: .5\nf: -0\ng: 12345678901234567890',
    'a: yes\nb: no\nc: true\nd: Null\ne: ~\nf:\ng: "null"',
    'a: 2027-02-14\nb: 2027-02-14T10:00:00Z\nc: 10:30',
    'a: >-\n  folded\n  words\n\n  more\nb: |\n  kept\n   words\nc: plain\n  that goes on',
    "a: 'it''s'\nb: \"tab\\t and \\u00e4\"\nc: '${ x }'\nd: ${ input.a }\n",
    '<<: { a: 1 }\nb: 2',
    '- 1\n- [a, {b: c}]\n- - nested\n',
    '{"a": [1, 2, {"b": null}], "c": "x\\ny"}',
    '__proto__: { polluted: true }\na: 1',
    '1: one\ntrue: yes\n',
    '',
    '# nothing but a word\n',
  ];
  for (const text of TEXTS)
    it(`agree on ${JSON.stringify(text.slice(0, 40))}`, () => {
      const { value, mistakes } = readSource(text);
      expect(mistakes).to.deep.equal([]);
      expect(JSON.stringify(value ?? null)).to.equal(JSON.stringify(parse(text)));
      expect(({} as { polluted?: boolean }).polluted).to.equal(undefined);
    });

  it('leave what is shared or written twice to the careful one', () => {
    expect(readSource('a: &x [1]\nb: *x').value).to.deep.equal({ a: [1], b: [1] });
    expect(readSource('a: 1\na: 2').mistakes[0]).to.include({ line: 2 });
    expect(readSource('a: 1\n---\nb: 2').mistakes).to.have.length(1);
  });
});

describe('the check inside of loops', () => {
  const loop = (inside: string, rest = '') =>
    flow(
      `  before: { kind: shape, with: { value: { n: 1 } } }\n  e:\n    kind: each\n    after: [before]\n    with: { list: [1], steps: { ${inside} }${rest} }`,
    );
  it('knows the item, its place, the steps around and those before inside', () => {
    expect(
      checkFlow(
        loop(
          'a: { kind: text, with: { text: "${ item } ${ index } ${ steps.before.value.n }" } }, b: { kind: text, after: [a], with: { text: "${ steps.a.text }" } }',
          ', result: "${ steps.b.text }"',
        ),
      ).mistakes,
    ).to.deep.equal([]);
  });
  it('tells what is not there, and what does not come before', () => {
    expect(first(loop('a: { kind: text, with: { text: "${ steps.before.value.m }" } }')).message).to.contain(
      'has no "m"',
    );
    expect(
      first(loop('a: { kind: text, with: { text: "${ steps.b.text }" } }, b: { kind: text, with: { text: x } }'))
        .message,
    ).to.contain('does not come before');
    expect(first(flow('  a: { kind: text, with: { text: "${ item }" } }')).message).to.contain(
      '"item", which is not defined here',
    );
    expect(first(loop('a: { kind: text, after: [before], with: { text: x } }')).message).to.contain(
      '"after" refers to a missing step "before"',
    );
    expect(first(loop('a: { kind: nothing }'))).to.include({ at: '/steps/e/with/steps/a/kind' });
  });
  it('wants steps or a flow, not both', () => {
    expect(first(flow('  e: { kind: each, with: { list: [] } }')).message).to.contain('takes either "steps" or "flow"');
  });
});

describe('a list in which nothing may stand twice', () => {
  const fits = (list: Json) =>
    validate({ type: 'object', properties: { list: { uniqueItems: true } } }, { list }).length === 0;

  it('tells apart what only looks alike', () => {
    for (const list of [
      [1, '1', true, null, false, 0, '', [], {}, [[]], [{}]],
      [[1, 2], [2, 1], { a: 1, b: 2 }, { a: 2, b: 1 }, { a: 1 }],
      // Their letters add up to the same.
      ['Aa', 'BB', 'AaAa', 'BBBB', 'AaBB', { Aa: 1 }, { BB: 1 }],
      [0.5, 0.25, 1.5, 2 ** 31, 2 ** 31 + 1, -1, 1e300],
    ])
      expect(fits(list as Json), JSON.stringify(list)).to.equal(true);
  });

  it('finds what is the same, however it is written', () => {
    for (const [one, other] of [
      [1, 1.0],
      [0, -0],
      [
        { a: 1, b: [2, { c: 3 }] },
        { b: [2, { c: 3 }], a: 1 },
      ],
      ['BB', 'BB'],
      [null, null],
    ] as [Json, Json][])
      expect(fits(['Aa', one, 'x', 'BBBB', other]), JSON.stringify(one)).to.equal(false);
  });
});

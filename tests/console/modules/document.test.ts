import { flowJsonSchema } from '@pindro/core';
import type { JsonSchema } from '@pindro/core/browser';
import { expect } from 'chai';
import { consoleModules } from '../../support/console-modules.js';

/** A text as an editor has it: lines with their places. */
function textOf(words: string) {
  const all = words.split('\n');
  const line = (number: number) => {
    const from = all.slice(0, number - 1).reduce((sum, one) => sum + one.length + 1, 0);
    return { number, from, to: from + all[number - 1]!.length, text: all[number - 1]! };
  };
  return { lines: all.length, line };
}
type Text = ReturnType<typeof textOf>;

const FLOW = `# what a warden asks for
format: pindro/flow@1
name: book
input:
  type: object
  properties:
    hut: { type: string }
steps:
  look:
    kind: table
    with:
      table: huts
      do: find

      # only those that are open
      where:
        open: true
  "tell all":
    kind: each
    after: [look]
    with:
      list: \${ steps.look.rows }
      steps:
        line:
          kind: text
          with: { text: "\${ item }" }
  write:
    kind: mail
    with:
      to:
        - ines@alder-ridge.example
        - name: x
          more: y
result: done`;

describe('the document of a flow as text', function () {
  this.timeout(120_000);
  const modules = consoleModules();
  interface PathModule {
    pathAt(text: Text, line: number): { path: string[]; indent: number };
    lineOf(text: Text, pointer: string): number | null;
  }
  const text = textOf(FLOW);
  const lineWith = (words: string) => FLOW.split('\n').findIndex((line) => line.includes(words)) + 1;
  let path: PathModule;
  before(async () => {
    path = await modules.load('document/path.ts');
  });

  const PATHS: [string, string[]][] = [
    ['format: pindro', []],
    ['type: object', ['input']],
    ['kind: table', ['steps', 'look']],
    ['do: find', ['steps', 'look', 'with']],
    ['open: true', ['steps', 'look', 'with', 'where']],
    ['kind: each', ['steps', 'tell all']],
    ['kind: text', ['steps', 'tell all', 'with', 'steps', 'line']],
    ['- ines@', ['steps', 'write', 'with', 'to']],
    ['more: y', ['steps', 'write', 'with', 'to', '-']],
    ['result: done', []],
  ];
  for (const [words, expected] of PATHS)
    it(`knows under which names "${words}" stands`, () =>
      expect(path.pathAt(text, lineWith(words)).path).to.deep.equal(expected));

  it('finds the line of what a pointer names, or of what stands around it', () => {
    const at = (pointer: string) => path.lineOf(text, pointer);
    expect(at('/steps/look/with/where')).to.equal(lineWith('where:'));
    expect(at('/steps/tell all/with/list')).to.equal(lineWith('list:'));
    expect(at('/steps/write/with/to/0')).to.equal(lineWith('- ines'));
    expect(at('/steps/write/with/to/1/more')).to.equal(lineWith('more: y'));
    expect(at('/steps/write/with/to/1/less')).to.equal(lineWith('- name: x'));
    expect(at('/steps/write/with/to/7')).to.equal(lineWith('to:'));
    expect(at('/steps/look/with/limit'), 'missing').to.equal(lineWith('table: huts') - 1);
    expect(at('/result')).to.equal(lineWith('result:'));
    expect(at('/nowhere')).to.equal(null);
    expect(at('')).to.equal(null);
    // The name of a step is not taken for the same name deeper in another one.
    expect(path.lineOf(textOf('steps:\n  a:\n    with:\n      b: 1\n  b:\n    kind: text'), '/steps/b')).to.equal(5);
    const list = textOf('to:\n- a: 1\n  b: 2\n- a: 3\n  "x/y": 4\nb: 5');
    expect(['/to/1/a', '/to/0/b', '/to/1/b', '/to/1/x~1y', '/b'].map((one) => path.lineOf(list, one))).to.deep.equal([
      4, 3, 4, 5, 6,
    ]);
  });

  it('marks mistakes where they are: by line and column, by pointer, else at the first line', async () => {
    interface Mark {
      from: number;
      to: number;
      message: string;
    }
    const { marksOf } = await modules.load<{ marksOf(text: Text, all: object[]): Mark[] }>('document/marks.ts');
    const [exact, pointed, lost, beyond] = marksOf(text, [
      { at: '/name', line: 3, column: 7, message: 'is taken', hint: 'Take another.' },
      { at: '/steps/look/with/do', message: 'is unknown' },
      { at: '/gone', message: 'is gone' },
      { at: '', line: 9999, column: 9999, message: 'is far' },
    ]);
    expect(FLOW.slice(exact!.from, exact!.to)).to.equal('book');
    expect(exact!.message).to.equal('is taken. Take another.');
    expect(FLOW.slice(pointed!.from, pointed!.to)).to.equal('do: find');
    expect(lost!.from).to.equal(0);
    for (const { from, to } of [exact!, pointed!, lost!, beyond!]) {
      expect(from).to.be.at.most(to);
      expect(to).to.be.at.most(FLOW.length);
    }
  });
});

describe('what may be written next', function () {
  this.timeout(120_000);
  const modules = consoleModules();
  interface Offer {
    label: string;
    detail: string;
    isKey: boolean;
  }
  type Offers = (root: JsonSchema, path: string[], kindOf: (step: string[]) => string) => Offer[];
  let offersAt: Offers;
  let valuesAt: Offers;
  const root = flowJsonSchema();
  const keys = (path: string[], kind = '') => offersAt(root, path, () => kind).map(({ label }) => label);
  const values = (path: string[], kind = '') => valuesAt(root, path, () => kind).map(({ label }) => label);
  before(async () => {
    ({ offersAt, valuesAt } = await modules.load<{ offersAt: Offers; valuesAt: Offers }>('document/schema.ts'));
  });

  it('comes from the published schema, with a word on each', () => {
    expect(keys([])).to.include.members(['format', 'name', 'input', 'steps', 'result']);
    expect(keys(['steps', 'look'])).to.include.members(['kind', 'after', 'with', 'retry', 'place', 'under']);
    for (const { label, detail } of offersAt(root, ['steps', 'look'], () => '')) expect(detail, label).not.to.equal('');
  });

  it('depends on the kind of the step', () => {
    expect(keys(['steps', 'look', 'with'], 'http')).to.include.members(['url', 'method', 'headers']);
    expect(keys(['steps', 'look', 'with'], 'mail'))
      .to.include.members(['to', 'subject'])
      .and.not.include('url');
    expect(keys(['steps', 'look', 'with'], 'from-the-future')).not.to.include('url');
    expect(keys(['steps', 'all', 'with', 'steps', 'inner'], 'each')).to.include('kind');
  });

  it('counts up values where they can be counted', () => {
    expect(values(['steps', 'a', 'kind'])).to.include.members(['agent', 'table', 'http', 'approve']);
    expect(values(['steps', 'a', 'off'])).to.deep.equal(['true', 'false']);
    expect(values(['steps', 'a', 'join'])).to.have.members(['all', 'any']);
    expect(values(['steps', 'a', 'with', 'do'], 'table')).to.include.members(['find', 'add', 'change', 'remove']);
    expect(values(['steps', 'a', 'with', 'method'], 'http')).to.include('POST');
    expect(values(['name'])).to.deep.equal([]);
  });

  it('is offered once, and nothing where nothing can stand', () => {
    const all = keys(['steps', 'a', 'with'], 'table');
    expect(new Set(all).size).to.equal(all.length);
    expect(keys(['name', 'deeper'])).to.deep.equal([]);
    expect(keys(['nowhere', 'at', 'all'])).to.deep.equal([]);
  });

  it('does not go round in circles of a schema', () => {
    const circle = { $defs: { a: { anyOf: [{ $ref: '#/$defs/a' }, { properties: { b: {} } }] } }, $ref: '#/$defs/a' };
    expect(offersAt(circle as unknown as JsonSchema, [], () => '').map(({ label }) => label)).to.deep.equal(['b']);
    expect(offersAt({ $ref: '#/$defs/gone' }, [], () => '')).to.deep.equal([]);
  });
});

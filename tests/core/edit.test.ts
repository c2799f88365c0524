import {
  checkFlow,
  compareFlows,
  compareLines,
  outlineOf,
  PindroError,
  readDraft,
  requireFlow,
  rewriteText,
} from '@pindro/core';
import {
  addStep,
  cellText,
  changeStep,
  connect,
  copyText,
  disconnect,
  duplicateSteps,
  type FlowDocument,
  freeName,
  type Json,
  putInput,
  readCell,
  removeInput,
  removeSteps,
  renameBranch,
  renameInput,
  renameStep,
  stepsAt,
  takeIn,
  withValue,
} from '@pindro/core/browser';
import { expect } from 'chai';
import { parse } from 'yaml';

const TEXT = `# what a warden asks for
format: pindro/flow@1
name: book
input:
  type: object
  required: [hut]
  properties:
    hut: { type: string, enum: [larch, kestrel] } # only these two
steps:
  # first look
  place:
    kind: table
    with: { table: huts, do: find, where: { name: "\${ input.hut }" } }
  # then say
  say:
    kind: text
    after: [place]
    with: { text: "\${ steps.place.count } of \${ input.hut }, not steps.place" }
result: "\${ steps.say.text }"
`;
const flow = () => parse(TEXT) as FlowDocument;

describe('changing a flow as an editor does', () => {
  it('adds a step after another one, and between two', () => {
    const end = addStep(flow(), [], 'text', { after: { from: 'say', branch: null } });
    expect(end.name).to.equal('text');
    expect(end.document.steps.text).to.deep.equal({ kind: 'text', after: ['say'] });
    const between = addStep(flow(), [], 'shape', {
      after: { from: 'place', branch: null },
      before: 'say',
      with: { value: 1 },
    });
    expect(Object.keys(between.document.steps)).to.deep.equal(['place', 'shape', 'say']);
    expect(between.document.steps.say!.after).to.deep.equal(['shape']);
    expect(between.document.steps.shape).to.deep.equal({ kind: 'shape', after: ['place'], with: { value: 1 } });
  });

  it('never gives a name twice, nor one that means a branch', () => {
    expect(freeName(flow(), 'place')).to.equal('place_2');
    expect(freeName(flow(), 'Send a mail!')).to.equal('send_a_mail');
    expect(freeName(flow(), 'error')).to.equal('error_2');
    expect(freeName(flow(), '9')).to.equal('step');
    expect(freeName(flow(), 'Größe (Hütte)')).to.equal('grosse_hutte');
    expect(freeName(flow(), 'x'.repeat(500)).length).to.be.below(70);
    const looped = withValue(flow(), ['steps', 'loop'], { kind: 'each', with: { steps: { inner: { kind: 'text' } } } });
    expect(freeName(looped, 'inner')).to.equal('inner_2');
  });

  it('renames a step with its links and expressions, and leaves plain words alone', () => {
    const renamed = renameStep(flow(), [], 'place', 'hut_row');
    expect(Object.keys(renamed.steps)).to.deep.equal(['hut_row', 'say']);
    expect(renamed.steps.say!.after).to.deep.equal(['hut_row']);
    expect(renamed.steps.say!.with!.text).to.equal('${ steps.hut_row.count } of ${ input.hut }, not steps.place');
  });

  it('renames an input where it is used, and keeps what is required', () => {
    const renamed = renameInput(flow(), 'hut', 'house');
    expect(renamed.input).to.deep.include({ required: ['house'] });
    expect(renamed.steps.place!.with).to.deep.include({ where: { name: '${ input.house }' } });
  });

  it('takes a step out and joins what stood around it', () => {
    const { document } = addStep(flow(), [], 'text', { after: { from: 'say', branch: null } });
    const without = removeSteps(document, [], ['say']);
    expect(without.steps.text!.after).to.deep.equal(['place']);
    expect(removeSteps(without, [], ['place']).steps.text).to.deep.equal({ kind: 'text' });
  });

  it('connects and disconnects, branches too, and nothing with itself', () => {
    const linked = connect(flow(), [], { from: 'place', branch: 'error' }, 'say');
    expect(linked.steps.say!.after).to.deep.equal(['place', 'place.error']);
    expect(disconnect(linked, [], { from: 'place', branch: null }, 'say').steps.say!.after).to.deep.equal([
      'place.error',
    ]);
    expect(connect(flow(), [], { from: 'say', branch: null }, 'say')).to.deep.equal(flow());
  });

  it('duplicates steps, linked among themselves', () => {
    const { document, names } = duplicateSteps(flow(), [], ['place', 'say']);
    expect(names).to.deep.equal(['place_2', 'say_2']);
    expect(document.steps.say_2).to.deep.include({ after: ['place_2'] });
    expect(document.steps.say_2!.with!.text).to.contain('steps.place_2.count');
    expect(duplicateSteps(flow(), [], ['say']).document.steps.say_2!.after).to.deep.equal(['place']);
  });

  it('copies as text and takes in another flow, where links to what is not there fall away', () => {
    const text = copyText(flow(), [], ['say']);
    const other = {
      format: 'pindro/flow@1',
      name: 'other',
      steps: { say: { kind: 'text' } },
    } as unknown as FlowDocument;
    const { document, names } = takeIn(other, [], JSON.parse(text).steps);
    expect(names).to.deep.equal(['say_2']);
    expect(document.steps.say_2).not.to.have.property('after');
  });

  it('works inside of a loop', () => {
    const looped = withValue(flow(), ['steps', 'loop'], { kind: 'each', with: { list: [], steps: {} } });
    const place = ['steps', 'loop', 'with'];
    const { document } = addStep(looped, place, 'text', { with: { text: 'x' } });
    expect(stepsAt(document, place)).to.deep.equal({ text: { kind: 'text', with: { text: 'x' } } });
    const renamed = renameStep(document, place, 'text', 'line');
    expect(Object.keys(stepsAt(renamed, place))).to.deep.equal(['line']);
    expect(changeStep(renamed, place, 'line', { off: true }).steps.loop).to.have.nested.property(
      'with.steps.line.off',
      true,
    );
  });

  it('declares inputs and takes them out again', () => {
    const more = putInput(flow(), 'party', { type: 'integer' }, true);
    expect(more.input).to.deep.include({ required: ['hut', 'party'] });
    expect(putInput(more, 'party', { type: 'integer' }, false).input).to.deep.include({ required: ['hut'] });
    expect(removeInput(removeInput(more, 'party'), 'hut')).not.to.have.property('input');
  });
});

describe('branches that get another name', () => {
  const fork = () => {
    const steps = {
      fork: { kind: 'choose', with: { when: { many: '${ true }', few: '${ false }' } } },
      call: { kind: 'text', after: ['fork.many'] },
      write: { kind: 'text', after: ['fork.few', 'fork.many'] },
      other: { kind: 'text', after: ['fork_2.many'] },
    };
    return { ...flow(), steps } as unknown as FlowDocument;
  };
  const afters = (document: FlowDocument, place: string[] = []) =>
    Object.fromEntries(Object.entries(stepsAt(document, place)).map(([name, { after }]) => [name, after]));

  it('are followed by their new name, and only those of that step', () => {
    expect(afters(renameBranch(fork(), [], 'fork', 'many', 'groups'))).to.deep.equal({
      fork: undefined,
      call: ['fork.groups'],
      write: ['fork.few', 'fork.groups'],
      other: ['fork_2.many'],
    });
  });

  it('are followed once where a step already follows the other', () => {
    expect(afters(renameBranch(fork(), [], 'fork', 'many', 'few')).write).to.deep.equal(['fork.few']);
  });

  it('change nothing where nobody follows them, nor outside of their loop', () => {
    expect(renameBranch(fork(), [], 'fork', 'nobody', 'x')).to.deep.equal(fork());
    const looped = withValue(fork(), ['steps', 'loop'], { kind: 'each', with: { list: [], steps: fork().steps } });
    const renamed = renameBranch(looped, ['steps', 'loop', 'with'], 'fork', 'many', 'groups');
    expect(afters(renamed, ['steps', 'loop', 'with']).call).to.deep.equal(['fork.groups']);
    expect(afters(renamed).call).to.deep.equal(['fork.many']);
  });
});

describe('where cards stand and under which heading', () => {
  const placed = (at: [number, number]) => changeStep(flow(), [], 'say', { place: at, under: 'The answer' });
  const said = (document: FlowDocument) => ({ document, text: rewriteText(TEXT, document) });

  it('is written in one line, and read again', () => {
    const { text } = said(placed([120, -40]));
    expect(text).to.contain('    place: [ 120, -40 ]\n').and.contain('    under: The answer\n');
    expect(requireFlow(text).steps.say).to.deep.include({ place: [120, -40], under: 'The answer' });
    expect(text).to.contain('# then say');
  });

  it('is written in one line of a flow that comes as JSON too, and no text is taken for it', () => {
    const text = 'huts:\n  place:\n    - 1\n    - 2\n';
    const document = withValue(placed([1, -2]), ['steps', 'say', 'with', 'text'], text);
    const draft = readDraft(document);
    const written = 'text' in draft ? draft.text : '';
    expect(written).to.contain('    place: [ 1, -2 ]\n');
    expect(requireFlow(written)).to.deep.equal(document);
  });

  it('is told as one line where only it differs, apart from what the flow does', () => {
    const { steps, changes } = compareFlows(said(placed([0, 0])), said(placed([400, 80])));
    expect(steps).to.deep.equal({});
    expect(changes.map(({ what }) => what)).to.deep.equal(['Node positions changed']);
    const both = withValue(placed([400, 80]), ['steps', 'say', 'with', 'text'], 'Hello');
    expect(compareFlows(said(placed([0, 0])), said(both)).steps).to.deep.equal({ say: 'changed' });
  });

  for (const place of [[1], [1, 2, 3], [0.5, 1], ['1', '2'], [2e6, 0], { x: 1 }, 'here'])
    it(`is refused as ${JSON.stringify(place)}, at its place`, () => {
      const wrong = changeStep(flow(), [], 'say', { place: place as never });
      expect(() => requireFlow(wrong))
        .to.throw(PindroError)
        .with.property('mistakes')
        .that.satisfies((all: { at: string }[]) => all.every(({ at }) => at.startsWith('/steps/say/place')));
    });

  it('stays with a step that is renamed, and goes with one that is duplicated', () => {
    expect(renameStep(placed([8, 9]), [], 'say', 'tell').steps.tell).to.deep.include({ place: [8, 9] });
    const { document, names } = duplicateSteps(placed([8, 9]), [], ['say']);
    expect(document.steps[names[0]!]).to.deep.include({ under: 'The answer' });
  });
});

describe('what is still to be filled in', () => {
  const mistakesOf = (step: object) => {
    const { result: _, ...rest } = flow();
    const document = { ...rest, steps: { step } } as unknown as Json;
    const known = { models: ['ridge'], endpoints: ['huts'], servers: { lift: [] }, tables: ['huts'], flows: [] };
    return checkFlow(document, known).mistakes.map(({ at, missing }) => [
      at.replace('/steps/step', ''),
      missing === true,
    ]);
  };
  const agent = (more: object) => ({
    kind: 'agent',
    with: { model: 'ridge', message: 'x', instructions: '', ...more },
  });

  it('is told apart from what is wrong, at the very field', () => {
    expect(mistakesOf(agent({ toolbox: [{ endpoint: '' }] }))).to.deep.equal([['/with/toolbox/0/endpoint', true]]);
    expect(mistakesOf(agent({ toolbox: [{ server: 'lft' }] }))).to.deep.equal([['/with/toolbox/0/server', false]]);
    expect(mistakesOf({ kind: 'tool', with: { server: 'lift' } })).to.deep.equal([['/with/tool', true]]);
    expect(mistakesOf({ kind: 'choose', with: { when: {} } })).to.deep.equal([['/with/when', true]]);
    expect(mistakesOf({ kind: 'choose', with: { when: { yes: '' } } })).to.deep.equal([['/with/when/yes', true]]);
    expect(mistakesOf({ kind: 'choose', with: { when: { yes: 'maybe' } } })).to.deep.equal([['/with/when/yes', false]]);
    const find = (where: object) => ({ kind: 'table', with: { table: 'huts', do: 'find', where } });
    expect(mistakesOf(find({ name: {} }))).to.deep.equal([['/with/where/name', true]]);
    expect(mistakesOf(find({ name: { near: 1 } }))).to.deep.equal([['/with/where/name/near', false]]);
  });

  it('says on its card which tools there are, and which not', () => {
    const use = (...given: string[]) => outlineOf('step', agent({ toolbox: [{ server: 'lift', use: given }] }));
    const said = (...given: string[]) => use(...given).tools[0]!.use;
    expect(said('list_*', 'lift_status')).to.equal('list_*, lift_status');
    expect(said('!cancel_load', '!clear')).to.equal('every tool but cancel_load, clear');
    expect(said('*_load', '!cancel_load')).to.equal('*_load, without cancel_load');
    expect(said('')).to.equal('all tools');
  });

  it('stands on its card as something to come', () => {
    const rows = (toolbox: Json) => outlineOf('step', agent({ toolbox })).tools.map(({ from }) => from);
    expect(rows([{ endpoint: '' }, { server: 'lift' }, { flow: '' }, {}])).to.deep.equal([
      'endpoint …',
      'tool server lift',
      'flow …',
      'tools …',
    ]);
  });
});

describe('cells of a table as texts', () => {
  const TYPES = ['text', 'number', 'whole', 'boolean', 'date', 'json'] as const;

  it('are read as their column has them, and written so that they are read again', () => {
    const cells: [(typeof TYPES)[number], Json[]][] = [
      ['text', ['larch', ' two words ', 'true', '12', 'a,"b"\nc']],
      ['number', [0, -0.5, 1e21, 12]],
      ['whole', [0, -3, Number.MAX_SAFE_INTEGER]],
      ['boolean', [true, false]],
      ['date', ['2027-02-14']],
      ['json', [{ a: [1, null] }, [], 7, true, '1', 'true', '']],
    ];
    for (const [type, values] of cells)
      for (const value of values)
        expect(readCell(cellText(value, type), type), `${type} ${JSON.stringify(value)}`).to.deep.equal({ value });
  });

  it('are nothing where they are empty', () => {
    for (const type of TYPES) expect(readCell('', type), type).to.deep.equal({ value: null });
    expect(cellText(null)).to.equal('');
  });

  it('are refused with what the column wants', () => {
    const wrong: [(typeof TYPES)[number], string[], string][] = [
      ['number', ['twelve', ' ', '1,5', 'Infinity', 'NaN'], 'a number'],
      ['whole', ['1.5', '9007199254740993', '1e400'], 'an integer'],
      ['boolean', ['yes', 'TRUE', '1'], 'true or false'],
      ['date', ['14.2.2027', '2027-2-14', 'tomorrow'], 'a date such as 2027-02-14'],
      ['json', ['{', 'larch', "{'a': 1}"], 'JSON'],
    ];
    for (const [type, texts, wants] of wrong)
      for (const text of texts) expect(readCell(text, type), `${type} ${text}`).to.deep.equal({ wants });
  });
});

describe('writing a changed flow into its text', () => {
  const changed = (change: (document: FlowDocument) => FlowDocument) => rewriteText(TEXT, change(flow()));

  it('changes nothing where nothing changed', () => {
    expect(changed((document) => document)).to.equal(TEXT);
  });

  it('touches only the lines that change, and keeps every comment', () => {
    const text = changed((document) => withValue(document, ['steps', 'say', 'with', 'text'], 'Hello'));
    const lines = text.split('\n').filter((line) => !TEXT.includes(line));
    expect(lines).to.deep.equal(['    with: { text: "Hello" }']);
    for (const comment of ['# what a warden asks for', '# only these two', '# first look', '# then say'])
      expect(text).to.contain(comment);
  });

  it('keeps the comments of a step that is renamed', () => {
    const text = changed((document) => renameStep(document, [], 'place', 'look'));
    expect(text).to.contain('  # first look\n  look:\n    kind: table\n    with: { table: huts,');
    expect(requireFlow(text).steps).to.have.keys(['look', 'say']);
  });

  it('puts a new step where it belongs, and takes one out with what is said about it', () => {
    const added = changed(
      (document) =>
        addStep(document, [], 'shape', { after: { from: 'place', branch: null }, before: 'say', with: { value: 1 } })
          .document,
    );
    expect(added.indexOf('  shape:'))
      .to.be.greaterThan(added.indexOf('  place:'))
      .and.lessThan(added.indexOf('  say:'));
    expect(parse(added)).to.have.nested.property('steps.say.after[0]', 'shape');
    expect(parse(changed((document) => removeSteps(document, [], ['place'])))).not.to.have.nested.property(
      'steps.place',
    );
  });

  it('writes long texts as blocks, odd texts safely, and JSON as JSON', () => {
    for (const value of ['two\nlines\n', 'a: b', '- x', '${ "a: b" }', '', '# no comment', 'yes', '0123']) {
      const text = changed((document) => withValue(document, ['steps', 'say', 'with', 'text'], value));
      expect(parse(text).steps.say.with.text, value).to.equal(value);
    }
    const json = JSON.stringify(flow());
    expect(JSON.parse(rewriteText(json, { ...flow(), title: 'T' }))).to.include({ title: 'T' });
  });
});

describe('comparing two flows', () => {
  it('says what differs, step by step and line by line', () => {
    const before = { document: flow(), text: TEXT };
    const document = putInput(
      withValue(renameStep(flow(), [], 'say', 'tell'), ['title'], 'Book'),
      'party',
      { type: 'integer' },
      true,
    );
    const after = { document, text: rewriteText(TEXT, document) };
    const { changes, steps, lines } = compareFlows(before, after);
    expect(steps).to.deep.equal({ say: 'removed', tell: 'added' });
    expect(changes.map((change) => change.what)).to.have.members([
      'Title was added',
      'Required inputs changed',
      'Input party: added',
      'Result was changed',
      'Step say (text): removed',
      'Step tell (text): added',
    ]);
    expect(lines.filter((line) => line.sign === '+').map((line) => line.text)).to.include('title: Book');
    expect(compareFlows(before, before)).to.deep.include({ changes: [], steps: {} });
  });

  it('shows the lines of texts that share none, however long they are', () => {
    const text = (word: string, many: number) => Array.from({ length: many }, (_, n) => `${word} ${n}\n`).join('');
    const signs = (before: string, after: string) => {
      const lines = compareLines(before, after);
      return ['-', '+', ' '].map((sign) => lines.filter((line) => line.sign === sign).length);
    };
    expect(signs('', text('a', 5000))).to.deep.equal([0, 5000, 0]);
    expect(signs(text('a', 5000), '')).to.deep.equal([5000, 0, 0]);
    expect(signs(text('a', 5000), text('b', 4000))).to.deep.equal([5000, 4000, 0]);
    expect(signs('', '')).to.deep.equal([0, 0, 0]);
    expect(signs(text('a', 5000), text('a', 5001))).to.deep.equal([0, 1, 5000]);
  });

  it('does not take another order for a difference', () => {
    const { steps, ...rest } = flow();
    const other = { document: { steps, ...rest } as FlowDocument, text: TEXT };
    expect(compareFlows({ document: flow(), text: TEXT }, other).changes).to.deep.equal([]);
  });
});

import { cutTemplate, type Json, type PindroError, Template } from '@pindro/core';
import { expect } from 'chai';
import { used } from '../support/patience.js';

const scope = {
  input: { hut: 'kestrel', party: 5, list: [1, 2.5, 3], nested: { deep: [{ a: 1 }] } },
  steps: {},
  caller: { id: 'ines' },
  clock: { now: new Date('2027-02-14T10:00:00Z') },
};
const fill = (value: Json) => new Template(value, ['result']).fill(scope);
const value = (text: string) => fill(text).value;
const refusal = (text: string): PindroError => {
  try {
    new Template(text, ['at']).require(scope);
  } catch (error) {
    return error as PindroError;
  }
  throw new Error('nothing was refused');
};

describe('templates and expressions', () => {
  it('keep the type of a lone expression and make text of the rest', () => {
    expect(value('${ input.party }')).to.equal(5);
    expect(value(' ${ input.list } ')).to.equal(' [1,2.5,3] ');
    expect(value('${ input.list }')).to.deep.equal([1, 2.5, 3]);
    expect(value('${ input.hut } for ${ input.party }')).to.equal('kestrel for 5');
  });

  it('mix whole and other numbers, which leave as JSON numbers', () => {
    for (const [text, result] of Object.entries({
      'input.party + 1': 6,
      '1 + input.party': 6,
      'input.party / 2': 2.5,
      'input.party % 2': 1,
      'input.list.sum()': 6.5,
      'input.list.avg() > 2': true,
      'input.list.max()': 3,
      'input.party == 5': true,
      'size(input.list)': 3,
      'input.list.map(x, x * 2)': [2, 5, 6],
      'input.nested.deep[input.party - 5].a': 1,
    })) {
      expect(value(`\${ ${text} }`), text).to.deep.equal(result);
    }
  });

  it('write moments as RFC 3339 and leave maps as objects', () => {
    expect(value('${ clock.now }')).to.equal('2027-02-14T10:00:00.000Z');
    expect(value('${ {"a": input.party, "b": [true, null]} }')).to.deep.equal({ a: 5, b: [true, null] });
  });

  it('take $${ literally and pair braces and quotes', () => {
    expect(value('$${ input.hut }')).to.equal('${ input.hut }');
    expect(value('${ {"a": "}"}.a }')).to.equal('}');
    expect(cutTemplate("a ${ 'it\\'s }' } b")).to.have.length(3);
  });

  it('never scan data again', () => {
    const sly = new Template('${ input.hut }').fill({ input: { hut: '${ caller.id }' } });
    expect(sly.value).to.equal('${ caller.id }');
  });

  it('leave out an optional field whose value is not there, and say which', () => {
    const filled = fill({ hut: '${ input.hut }', none: '${ input.nothing }', text: 'x ${ input.nested.deep[7] }' });
    expect(filled.value).to.deep.equal({ hut: 'kestrel' });
    expect(filled.missing.map((one) => one.parts.join('/'))).to.deep.equal(['result/none', 'result/text']);
  });

  it('fail a required value that is not there, naming the expression and the reason', () => {
    const error = refusal('${ input.nothing }');
    expect(error).to.include({ code: 'no_value', at: '/at' });
    expect(error.message).to.contain('"input.nothing"').and.contain('there is no "nothing"');
    expect(refusal('${ input.list[9] }').message).to.contain('no such item');
    expect(fill(['${ input.nothing }']).missing[0]).to.include({ required: true });
  });

  it('tell a failing expression from a missing value', () => {
    expect(refusal('${ input.hut + 1 }').code).to.equal('expression_failed');
    expect(refusal('${ 1 / 0 }').code).to.equal('expression_failed');
    expect(refusal('${ 9007199254740993 }').message).to.contain('2^53');
  });

  it('match in linear time', () => {
    const start = used();
    const long = new Template('${ input.x.like("^(a+)+$") }').fill({ input: { x: `${'a'.repeat(5000)}!` } });
    expect(long.value).to.equal(false);
    expect(used() - start).to.be.below(2000);
  });

  it('bound the size of an expression', () => {
    expect(refusal(`\${ ${'1+'.repeat(5000)}1 }`).code).to.equal('expression_failed');
  });
});

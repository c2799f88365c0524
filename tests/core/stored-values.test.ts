import { fillInstructions, fillToolbox, type Json, type JsonObject, PindroError, Template } from '@pindro/core';
import { expect } from 'chai';

const scope = { input: { hut: 'larch', hostile: '${ kept.secret }' } };
const fill = (value: Json, at: PropertyKey[], more: JsonObject = {}) =>
  new Template(value, at).require({ ...scope, ...more });
const lines = (text: string, kept: JsonObject = {}) => fillInstructions(text, kept, fill);

describe('instructions that read what is kept', () => {
  it('leave out the lines whose value is not there yet, and those alone', () => {
    const text = 'Help.\nThe hut is ${ kept.hut }.\nBe kind to ${ input.hut }.';
    expect(lines(text)).to.equal('Help.\nBe kind to larch.');
    expect(lines(text, { hut: 'birch' })).to.equal('Help.\nThe hut is birch.\nBe kind to larch.');
  });

  it('take expressions over several lines as one', () => {
    expect(lines('A ${\n kept.a\n } b\nc', { a: 1 })).to.equal('A 1 b\nc');
    expect(lines('A ${\n kept.a\n } b\nc')).to.equal('c');
  });

  it('fail where something else has no value, as they would without', () => {
    expect(() => lines('Say ${ input.nothing }')).to.throw(PindroError, 'has no value');
  });

  it('fill no value twice: what somebody wrote is never an expression', () => {
    expect(lines('Said: ${ input.hostile }', { secret: 'x' })).to.equal('Said: ${ kept.secret }');
  });
});

describe('a toolbox that reads what is kept', () => {
  const toolbox = [
    {
      server: 'lift',
      tools: {
        load: {
          arguments: {
            hut: { set: '${ kept.hut }' },
            by: { set: '${ input.hut }' },
            note: { set: '${ input.hostile }' },
          },
        },
      },
    },
  ];

  it('has its other values filled, and those rules left for when the tool is called', () => {
    const [row] = fillToolbox(toolbox, fill) as unknown as [(typeof toolbox)[0]];
    expect(row.tools.load.arguments).to.deep.equal({
      hut: { set: '${ kept.hut }', late: true },
      by: { set: 'larch' },
      note: { set: '${ kept.secret }' },
    });
  });

  it('may read it in rules alone', () => {
    const wrong = [{ server: 'lift', use: ['${ kept.tool }'] }];
    expect(() => fillToolbox(wrong, fill)).to.throw(PindroError, 'stored values are available');
  });
});

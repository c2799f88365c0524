import {
  type ArgumentRules,
  distinctNames,
  mergeArguments,
  PindroError,
  ruleMistakes,
  rulesFor,
  seenSchema,
  select,
  toolName,
  validate,
} from '@pindro/core';
import { expect } from 'chai';

const tool = {
  name: 'schedule_load',
  inputSchema: {
    type: 'object',
    required: ['hut', 'weight_kg'],
    properties: {
      hut: { type: 'string', enum: ['kestrel', 'larch'] },
      weight_kg: { type: 'number', maximum: 1000 },
      priority: { type: 'string', enum: ['normal', 'urgent'] },
      day: { type: 'string', format: 'date' },
    },
  },
};
const merge = (rules: ArgumentRules, given: Record<string, never> | object) =>
  mergeArguments(tool, rules, given as never);
const refusal = (rules: ArgumentRules, given: object): PindroError => {
  try {
    merge(rules, given);
  } catch (error) {
    if (error instanceof PindroError) return error;
  }
  throw new Error('nothing was refused');
};

describe('argument rules', () => {
  it('hide from the model what is set or left out, and change what is asked', () => {
    const seen = seenSchema(tool.inputSchema, {
      hut: { set: 'larch' },
      priority: 'omit',
      weight_kg: { ask: { description: 'in kg' } },
    });
    expect(Object.keys(seen.properties as object)).to.deep.equal(['weight_kg', 'day']);
    expect(seen.required).to.deep.equal(['weight_kg']);
    expect(seen).to.have.nested.property('properties.weight_kg.description', 'in kg');
    expect(tool.inputSchema.properties).to.have.property('hut');
  });

  it('merge what is set with what was asked', () => {
    expect(merge({ hut: { set: 'larch' } }, { weight_kg: 20 })).to.deep.equal({ hut: 'larch', weight_kg: 20 });
  });

  it('refuse a governed argument that is sent anyway', () => {
    expect(refusal({ hut: { set: 'larch' } }, { hut: 'kestrel', weight_kg: 1 })).to.include({
      code: 'argument_governed',
      at: '/hut',
    });
    expect(refusal({ priority: 'omit' }, { hut: 'larch', weight_kg: 1, priority: 'urgent' }).code).to.equal(
      'argument_governed',
    );
  });

  it('say in words what is missing, mistyped, misspelt or out of range, and coerce nothing', () => {
    expect(refusal({}, { hut: 'larch' }).message).to.contain('"weight_kg" is missing');
    expect(refusal({}, { hut: 'larch', weight_kg: '20' }).message).to.contain('"weight_kg" must be a number, not "20"');
    expect(refusal({}, { hut: 'lark', weight_kg: 2 }).message).to.contain('one of "kestrel", "larch"');
    expect(refusal({}, { hut: 'larch', weight_kg: 2000 }).message).to.contain('at most 1000');
    expect(refusal({}, { hut: 'larch', weight: 2, weight_kg: 2 }).message).to.contain('Did you mean "weight_kg"?');
    expect(refusal({}, { hut: 'larch', weight_kg: 2, day: '14.2.2027' }).message).to.contain('date such as 2027-02-14');
  });

  it("tell the builder's mistake from the caller's", () => {
    expect(refusal({ hut: { set: 'nowhere' } }, { weight_kg: 1 })).to.include({ code: 'rule_breaks_tool', at: '/hut' });
  });

  it('find rules that cannot be honoured', () => {
    const found = (rules: ArgumentRules, schema: object = tool.inputSchema) =>
      ruleMistakes({ name: 'x', inputSchema: schema as never }, rules).map((mistake) => mistake.message)[0];
    expect(found({ hut: 'omit' })).to.contain('required');
    expect(found({ hutt: 'omit' })).to.contain('no argument "hutt"');
    expect(found({ weight_kg: { set: 'heavy' } })).to.contain('is invalid');
    expect(found({ weight_kg: { set: '${ caller.weight }' } })).to.equal(undefined);
    expect(
      found({ inner: 'omit' }, { type: 'object', properties: {}, anyOf: [{ properties: { inner: {} } }] }),
    ).to.contain('combinator');
  });

  it('stand once on a server for every tool that has the argument', () => {
    expect(rulesFor(tool, { hut: { set: 'larch' }, unknown: 'omit' }, { priority: 'omit' })).to.deep.equal({
      hut: { set: 'larch' },
      priority: 'omit',
    });
    expect(rulesFor(tool, { hut: { set: 'larch' } }, { hut: 'ask' })).to.deep.equal({ hut: 'ask' });
  });
});

describe('schemas of other people', () => {
  it('have each its own pattern, also where several are read one after the other', () => {
    const patterned = (pattern: string) => ({ type: 'object', properties: { a: { type: 'string', pattern } } });
    const fits = (pattern: string, a: string) => validate(patterned(pattern), { a }).length === 0;
    expect([fits('^x+$', 'xx'), fits('^x+$', 'L-0009')]).to.deep.equal([true, false]);
    expect([fits('^L-\\d{4}$', 'xx'), fits('^L-\\d{4}$', 'L-0009')]).to.deep.equal([false, true]);
    const both = { type: 'object', properties: { a: { pattern: '^a$' }, b: { pattern: '^b$' } } };
    expect(validate(both, { a: 'a', b: 'b' })).to.deep.equal([]);
    expect(validate(both, { a: 'b', b: 'a' })).to.have.length(2);
  });

  it('are taken in draft 7 as well, and a broken one is left to its owner', () => {
    expect(
      validate(
        { $schema: 'http://json-schema.org/draft-07/schema#', type: 'object', properties: { a: { type: 'number' } } },
        { a: 'x' },
      ),
    ).to.have.length(1);
    expect(validate({ type: 'no-such-type' }, { a: 1 })).to.deep.equal([]);
  });
});

describe('choosing and naming tools', () => {
  const names = ['list_loads', 'list_huts', 'schedule_load'];
  it('takes names and patterns, and leaves out with !', () => {
    expect(select(names).chosen).to.deep.equal(names);
    expect(select(names, ['list_*']).chosen).to.deep.equal(['list_loads', 'list_huts']);
    expect(select(names, ['!list_huts']).chosen).to.deep.equal(['list_loads', 'schedule_load']);
    expect(select(names, ['*_load*', '!schedule_load']).chosen).to.deep.equal(['list_loads']);
    expect(select(names, ['lst_*', 'schedule_load']).idle).to.deep.equal(['lst_*']);
  });

  it('makes fit names, and tells colliding ones apart by where they come from', () => {
    expect(toolName('reserve-bunks')).to.equal('reserve_bunks');
    expect(toolName('2 getStatus!')).to.equal('get_status_');
    expect(toolName('x'.repeat(90))).to.have.length(64);
    expect(
      distinctNames([
        { name: 'status', source: 'lift' },
        { name: 'status', source: 'trail' },
        { name: 'other', source: 'lift' },
      ]),
    ).to.deep.equal(['status', 'trail__status', 'other']);
  });
});

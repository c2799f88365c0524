import { type Contract, contractChanges, type JsonObject, NO_EFFECT } from '@pindro/core';
import { expect } from 'chai';

const contract = (
  properties: JsonObject = {},
  { required = [], ...rest }: Partial<Contract> & { required?: string[] } = {},
): Contract => ({
  description: 'Looks at a hut.',
  input: { type: 'object', properties, required },
  result: { type: 'object', properties: { free: { type: 'integer' } } },
  effects: NO_EFFECT,
  ...rest,
});
const said = (before: Contract, after: Contract) =>
  contractChanges(before, after).map(({ what, breaks }) => (breaks ? `! ${what}` : what));
const hut = { type: 'string', enum: ['kestrel', 'larch'], description: 'Which hut' };

describe('What changed in a contract', () => {
  it('is nothing where callers can go on as before', () => {
    expect(contractChanges(contract({ hut }), contract({ hut: { ...hut } }))).to.deep.equal([]);
  });

  it('tells what breaks callers first, and what does not after it', () => {
    const after = contract(
      { hut: { ...hut, enum: ['larch', 'stonewater'] }, party: { type: 'integer' }, note: { type: 'string' } },
      { required: ['party'] },
    );
    expect(said(contract({ hut, night: { type: 'string' } }), after)).to.deep.equal([
      '! "hut" may not be "kestrel" any more',
      '! It no longer takes "night"',
      '! It now needs "party"',
      '"hut" may also be "stonewater" now',
      'It now also takes "note", if it is given',
    ]);
  });

  it('sees limits, types and what may be left out', () => {
    const party = { type: 'integer', maximum: 40 };
    const before = contract({ party, hut: { type: 'string' } }, { required: ['hut'] });
    const after = contract(
      { party: { type: 'integer', maximum: 12 }, hut: { type: 'number' } },
      { required: ['party'] },
    );
    expect(said(before, after)).to.deep.equal([
      '! "party" may not be left out any more',
      '! "party": maximum is now 12, was 40',
      '! "hut" is now number, not string',
      '"hut" may be left out now',
    ]);
    expect(said(contract({ hut }), contract({ hut: { type: 'string', description: 'Its name' } }))).to.deep.equal([
      '"hut" may be anything now, not only "kestrel", "larch"',
      '"hut" is described differently',
    ]);
    expect(
      said(contract({ hut: { type: 'string' } }), contract({ hut: { type: 'string', enum: ['larch'] } })),
    ).to.deep.equal(['! "hut" may only be "larch" now']);
  });

  it('sees what it answers and what it does', () => {
    const result = { type: 'object', properties: { free: { type: 'string' }, of: { type: 'integer' } } };
    expect(said(contract(), contract({}, { result }))).to.deep.equal([
      '! In its answer "free" is of another kind',
      'Its answer now has "of"',
    ]);
    expect(said(contract(), contract({}, { result: { type: 'object', properties: {} } }))).to.deep.equal([
      '! Its answer has no "free" any more',
    ]);
    expect(said(contract(), contract({}, { result: null }))).to.deep.equal([
      '! What it answers is not certain any more',
    ]);
    const effects = { ...NO_EFFECT, writes: true, waits: true };
    expect(said(contract(), contract({}, { effects, description: 'Books a bunk.' }))).to.deep.equal([
      '! It now changes things, which it did not',
      '! It may now wait for a person or a time before it answers',
      'Its description reads differently',
    ]);
    expect(said(contract({}, { effects }), contract())).to.deep.equal([
      'It only reads now',
      'It answers without waiting now',
    ]);
  });
});

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
const hut = { type: 'string', enum: ['kestrel', 'larch'], description: 'Name of the hut' };

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
      '! "hut" no longer accepts "kestrel"',
      '! Argument "night" was removed',
      '! Required argument "party" was added',
      '"hut" now also accepts "stonewater"',
      'Optional argument "note" was added',
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
      '! Argument "party" is now required',
      '! "party": maximum changed from 40 to 12',
      '! Type of "hut" changed from string to number',
      'Argument "hut" is now optional',
    ]);
    expect(said(contract({ hut }), contract({ hut: { type: 'string', description: 'Its name' } }))).to.deep.equal([
      '"hut" now accepts any value, not only "kestrel", "larch"',
      'Description of "hut" changed',
    ]);
    expect(
      said(contract({ hut: { type: 'string' } }), contract({ hut: { type: 'string', enum: ['larch'] } })),
    ).to.deep.equal(['! "hut" now accepts only "larch"']);
  });

  it('sees what it answers and what it does', () => {
    const result = { type: 'object', properties: { free: { type: 'string' }, of: { type: 'integer' } } };
    expect(said(contract(), contract({}, { result }))).to.deep.equal([
      '! Type of result field "free" changed',
      'Result field "of" was added',
    ]);
    expect(said(contract(), contract({}, { result: { type: 'object', properties: {} } }))).to.deep.equal([
      '! Result field "free" was removed',
    ]);
    expect(said(contract(), contract({}, { result: null }))).to.deep.equal(['! The result no longer has a schema']);
    const effects = { ...NO_EFFECT, writes: true, waits: true };
    expect(said(contract(), contract({}, { effects, description: 'Books a bunk.' }))).to.deep.equal([
      '! The tool is no longer read-only',
      '! The tool may now wait for a person or a time before it answers',
      'Description changed',
    ]);
    expect(said(contract({}, { effects }), contract())).to.deep.equal([
      'The tool is now read-only',
      'The tool no longer waits before it answers',
    ]);
  });
});

import { compareTexts, compareValues } from '@pindro/core';
import { expect } from 'chai';

const paths = (fields: ReturnType<typeof compareValues>, same: boolean) =>
  fields.filter((field) => field.same === same).map(({ path }) => path.join('.'));

describe('comparing two values', () => {
  it('names the fields that differ, and keeps equal parts whole', () => {
    const fields = compareValues(
      { hut: 'larch', load: { weight_kg: 400, goods: ['gas', 'flour'] }, note: { by: 'ines' } },
      { hut: 'larch', load: { weight_kg: 180, goods: ['gas', 'wood'] }, note: { by: 'ines' } },
    );
    expect(paths(fields, false)).to.deep.equal(['load.weight_kg', 'load.goods.1']);
    expect(paths(fields, true)).to.deep.equal(['hut', 'load.goods.0', 'note']);
    expect(fields.find(({ path }) => path.at(-1) === 'weight_kg')).to.include({ one: 400, other: 180 });
  });

  it('tells a field that only one side has from one that is null, and puts those of the second last', () => {
    const fields = compareValues({ day: null }, { night: 1, day: 2 });
    expect(fields).to.deep.equal([
      { path: ['day'], one: null, other: 2, same: false },
      { path: ['night'], one: undefined, other: 1, same: false },
    ]);
    expect(compareValues(undefined, { a: 1 })).to.deep.equal([
      { path: [], one: undefined, other: { a: 1 }, same: false },
    ]);
  });

  it('compares what has no fields, or other ones, as a whole', () => {
    expect(compareValues('a', 'b')).to.deep.equal([{ path: [], one: 'a', other: 'b', same: false }]);
    expect(compareValues([1], { 0: 1 })).to.deep.equal([{ path: [], one: [1], other: { 0: 1 }, same: false }]);
    expect(compareValues({}, {})).to.deep.equal([{ path: [], one: {}, other: {}, same: true }]);
    expect(paths(compareValues({ a: 1, b: 2 }, { b: 2, a: 1 }), true)).to.deep.equal(['a', 'b']);
  });

  it('looks eight levels deep and not further', () => {
    const nested = (leaf: number, depth: number): never =>
      (depth === 0 ? leaf : { in: nested(leaf, depth - 1) }) as never;
    expect(compareValues(nested(1, 8), nested(2, 8))[0]!.path).to.have.length(8);
    const [field] = compareValues(nested(1, 12), nested(2, 12));
    expect(field!.path).to.have.length(8);
    expect(field!.one).to.deep.equal(nested(1, 4));
  });

  it('marks the words between the common beginning and the common end', () => {
    const [one, other] = compareTexts('at most 350 kg, 400 asked', 'at most 180 kg, 400 asked');
    expect(one).to.deep.equal([
      { text: 'at most ', differs: false },
      { text: '350 ', differs: true },
      { text: 'kg, 400 asked', differs: false },
    ]);
    expect(other.find(({ differs }) => differs)).to.deep.equal({ text: '180 ', differs: true });
    expect(compareTexts('a a', 'a a a')[0].map(({ differs }) => differs)).to.deep.equal([false, false]);
    expect(compareTexts('', 'new')).to.deep.equal([[], [{ text: 'new', differs: true }]]);
    expect(compareTexts('same', 'same')[0]).to.deep.equal([{ text: 'same', differs: false }]);
  });
});

import { ProblemError } from '@pindro/contract';
import type { Json } from '@pindro/core';
import { expect } from 'chai';
import { type Workspace, workspace } from '../support/workspace.js';

describe('tables', () => {
  let house: Workspace;
  before(async () => {
    house = await workspace();
    await house.api.createTable({
      body: {
        name: 'things',
        columns: { label: 'text', weight: 'number', count: 'whole', open: 'boolean', day: 'date', more: 'json' },
      },
    });
  });
  after(() => house.close());

  const add = async (row: Record<string, Json>) => (await house.api.addRow({ name: 'things', body: { row } })).row;
  const refusal = async (row: Record<string, unknown>) => {
    const error = await add(row as never).catch((thrown: unknown) => thrown);
    expect(error).to.be.instanceOf(ProblemError);
    return (error as ProblemError).problem;
  };

  it('give back every type of JSON as it was', async () => {
    const row = {
      label: 'Grüße "x" \\ 🏔',
      weight: 2.5,
      count: 9007199254740991,
      open: true,
      day: '2027-02-28',
      more: { deep: [1, null, { a: false }] },
    };
    expect(await add(row)).to.deep.include(row);
    expect(await add({ open: false })).to.deep.include({ open: false, label: null, weight: null });
    expect((await house.api.tableRows({ name: 'things' })).items[1]).to.deep.include(row);
  });

  const wrong: [string, Record<string, unknown>, string, RegExp][] = [
    ['a number for text', { label: 3 }, '/row/label', /accepts text/],
    ['text for a number', { weight: '3' }, '/row/weight', /accepts a number/],
    ['a fraction for a whole number', { count: 1.5 }, '/row/count', /integer/],
    ['2^53', { count: 2 ** 53 }, '/row/count', /2\^53/],
    ['a text for true or false', { open: 'yes' }, '/row/open', /true or false/],
    ['a boolean for a number', { weight: true }, '/row/weight', /accepts a number/],
    ['a day that is none', { day: '2027-02-30' }, '/row/day', /a date such as/],
    ['NUL', { label: 'a\0b' }, '/row/label', /without NUL/],
    ['an unknown column', { lable: 'x' }, '', /Did you mean "label"/],
    ['deep nesting', { more: JSON.parse(`${'['.repeat(100)}${']'.repeat(100)}`) }, '', /nested deeper/],
  ];
  for (const [what, row, at, words] of wrong) {
    it(`refuse ${what}, say where, and change nothing`, async () => {
      const before = (await house.api.tableRows({ name: 'things' })).items.length;
      const problem = await refusal(row);
      expect(problem.at ?? '').to.contain(at);
      expect(`${problem.detail}. ${problem.hint}`).to.match(words);
      expect((await house.api.tableRows({ name: 'things' })).items.length).to.equal(before);
    });
  }

  it('find by comparison, sorted and limited', async () => {
    house.service.tables.definitions.create('loads', { hut: 'text', kg: 'number' });
    for (const [hut, kg] of [
      ['larch', 10],
      ['larch', 300],
      ['kestrel', 120],
    ] as const)
      house.service.tables.rows.add({ table: 'loads', row: { hut, kg }, unless: null });
    const find = (where: object, more: object = {}) =>
      house.service.tables.rows
        .find({ table: 'loads', where: [where as never], sort: 'kg', descending: false, limit: 10, ...more })
        .map((row) => row.kg);
    expect(find({ hut: 'larch' })).to.deep.equal([10, 300]);
    expect(find({ kg: { gt: 10 } })).to.deep.equal([120, 300]);
    expect(find({ kg: { lte: 120 }, hut: { not: 'kestrel' } })).to.deep.equal([10]);
    expect(find({ hut: { contains: 'EST' } })).to.deep.equal([120]);
    expect(find({ kg: { in: [10, 120] } }, { descending: true })).to.deep.equal([120, 10]);
    expect(find({ kg: { in: [] } })).to.deep.equal([]);
    expect(find({}, { limit: 1 })).to.deep.equal([10]);
    expect(() => find({ kgs: 1 })).to.throw('There is no column of "loads" named "kgs"');
  });

  it('page from the newest row back', async () => {
    const first = await house.api.tableRows({ name: 'loads', query: { limit: 2 } });
    expect(first.items.map((row) => row.kg)).to.deep.equal([120, 300]);
    const second = await house.api.tableRows({ name: 'loads', query: { limit: 2, cursor: first.next! } });
    expect(second).to.deep.include({ next: null });
    expect(second.items.map((row) => row.kg)).to.deep.equal([10]);
  });

  it('are searched a stretch at a time when there are very many, and the answer says so', async () => {
    house.service.tables.definitions.create('crates', { label: 'text' });
    const row = (n: number) => ({ label: n === 5 ? 'the red one' : `crate ${n}` });
    for (let from = 0; from < 100_500; from += 500)
      house.service.tables.addAll(
        'crates',
        Array.from({ length: 500 }, (_, n) => row(from + n)),
      );
    const look = (query: object) => house.api.tableRows({ name: 'crates', query: { search: 'red', ...query } });
    const near = await look({});
    expect(near).to.deep.include({ items: [], count: 0, searched: 100_000 });
    const next = await look({ cursor: near.next! });
    expect(next.items.map(({ label }) => label)).to.deep.equal(['the red one']);
    expect(next).to.deep.include({ count: 1, searched: null, next: null });
    expect((await look({ oldest: 'true' })).items).to.have.length(1);
  });

  it('refuse ill-formed names', async () => {
    const refused = async (body: object) =>
      ((await house.api.createTable({ body: body as never }).catch((error) => error)) as ProblemError).problem;
    expect((await refused({ name: 'Bad Name', columns: { a: 'text' } })).detail).to.contain('lower-case');
    expect((await refused({ name: 'ok', columns: { 'a"; DROP TABLE data_things; --': 'text' } })).detail).to.contain(
      'is not a valid column',
    );
    expect((await refused({ name: 'ok', columns: {} })).detail).to.contain('at least one column');
    expect((await refused({ name: 'things', columns: { a: 'text' } })).code).to.equal('already_there');
  });
});

import { copyFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { Driver } from '@pindro/service';
import { expect } from 'chai';
import { discard, temporary } from '../support/workspace.js';

describe('the driver to the database', () => {
  let data: string;
  let driver: Driver;
  beforeEach(() => {
    data = temporary();
    driver = new Driver(join(data, 'test.db'));
    driver.exec('CREATE TABLE t (v)');
  });
  afterEach(() => {
    driver.close();
    discard(data);
  });
  const put = (value: unknown) => driver.prepare('INSERT INTO t (v) VALUES (?)').run(value);
  const got = () => driver.prepare('SELECT v, typeof(v) AS type FROM t').get() as { v: unknown; type: string };

  const kept: [string, unknown, unknown, string][] = [
    ['true', true, 1, 'integer'],
    ['false', false, 0, 'integer'],
    ['null', null, null, 'null'],
    ['zero', 0, 0, 'integer'],
    ['a whole number', -42, -42, 'integer'],
    ['2^53 - 1', Number.MAX_SAFE_INTEGER, Number.MAX_SAFE_INTEGER, 'integer'],
    ['a number', 2.5, 2.5, 'real'],
    ['an empty text', '', '', 'text'],
    ['text of all planes', 'Grüße 🏔 日本', 'Grüße 🏔 日本', 'text'],
    ['a long text', 'x'.repeat(1_000_000), 'x'.repeat(1_000_000), 'text'],
  ];
  for (const [what, value, stored, type] of kept) {
    it(`keeps ${what}`, () => {
      put(value);
      expect(got()).to.deep.equal({ v: stored, type });
    });
  }

  it('leaves everything in the file when it closes, and nothing in its log', () => {
    for (let count = 0; count < 50; count++) put('x'.repeat(10_000));
    driver.close();
    copyFileSync(join(data, 'test.db'), join(data, 'copy.db'));
    expect(statSync(join(data, 'test.db-wal'), { throwIfNoEntry: false })?.size ?? 0).to.equal(0);
    driver = new Driver(join(data, 'copy.db'));
    expect(driver.prepare('SELECT count(*) AS count FROM t').get()).to.deep.equal({ count: 50 });
  });

  const refused: [string, unknown][] = [
    ['text with NUL', 'a\0b'],
    ['nothing at all', undefined],
    ['NaN', Number.NaN],
    ['infinity', Number.POSITIVE_INFINITY],
    ['an object', {}],
    ['a list', []],
    ['a function', () => {}],
    ['a whole number beyond 64 bits', 2n ** 64n],
  ];
  for (const [what, value] of refused) {
    it(`refuses ${what} instead of keeping it wrongly`, () => {
      expect(() => put(value))
        .to.throw(/is|contains/)
        .with.property('code', 'value_unsafe');
      expect(got()).to.equal(undefined);
    });
  }

  it('gives rows as each was asked to, though statements of one text are prepared once', () => {
    put(1);
    const text = 'SELECT * FROM t';
    const [objects, lists] = [driver.prepare(text), driver.prepare(text).raw()];
    for (let turn = 0; turn < 2; turn++) {
      expect(objects.all()).to.deep.equal([{ v: 1 }]);
      expect(lists.all()).to.deep.equal([[1]]);
      expect(objects.get()).to.deep.equal({ v: 1 });
    }
    driver.exec('ALTER TABLE t ADD COLUMN w DEFAULT 2');
    expect(driver.prepare(text).all()).to.deep.equal([{ v: 1, w: 2 }]);
    driver.prepare('ALTER TABLE t ADD COLUMN x DEFAULT 3').run();
    expect(driver.prepare(text).raw().all()).to.deep.equal([[1, 2, 3]]);
    for (let index = 0; index < 1000; index++)
      expect(driver.prepare(`SELECT ${index} AS n`).get()).to.deep.equal({ n: index });
    expect(objects.get()).to.include({ v: 1 });
  });

  it('refuses a missing or superfluous parameter', () => {
    expect(() => driver.prepare('INSERT INTO t (v) VALUES (?)').run()).to.throw('takes 1 values, not 0');
    expect(() => driver.prepare("SELECT '?' FROM t WHERE v = ? -- ?").all(1, 2)).to.throw('takes 1 values, not 2');
  });

  it('rolls back what fails, and refuses a transaction that would wait', () => {
    expect(() =>
      driver
        .transaction(() => {
          put(1);
          throw new Error('no');
        })
        .immediate(),
    ).to.throw('no');
    expect(() => driver.transaction(async () => put(2)).immediate()).to.throw('must be synchronous');
    expect(got()).to.equal(undefined);
  });

  it('joins an inner transaction to the outer one', () => {
    driver.transaction(() => driver.transaction(() => put(1)).immediate()).immediate();
    expect(got().v).to.equal(1);
  });
});

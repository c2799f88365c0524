import { CSV_WRITING, type JsonObject, writeCsvRecord } from '@pindro/core/browser';
import { expect } from 'chai';
import { consoleModules } from '../../support/console-modules.js';

describe('how the console shows a value', function () {
  this.timeout(120_000);
  const modules = consoleModules();
  interface Look {
    look: string;
    [more: string]: unknown;
  }
  let lookOf: (value: unknown, name?: string) => Look;
  before(async () => {
    ({ lookOf } = await modules.load<{ lookOf: typeof lookOf }>('values/format.ts'));
  });

  const LOOKS: [string, unknown, string, string?][] = [
    ['nothing', null, 'nothing'],
    ['a missing value', undefined, 'nothing'],
    ['an empty text', '', 'nothing'],
    ['an empty list', [], 'nothing'],
    ['an object without fields', {}, 'nothing'],
    ['a word', 'larch', 'plain'],
    ['yes and no', false, 'plain'],
    ['a number', 12.5, 'plain'],
    ['a long text', 'x'.repeat(701), 'long'],
    ['a text that is not quite long', 'x'.repeat(700), 'plain'],
    ['an address', 'https://alder-ridge.example/huts?x=1', 'link'],
    ['an address in a sentence', 'see https://alder-ridge.example', 'plain'],
    ['a script as address', 'javascript:alert(1)', 'plain'],
    ['no address', 'https://', 'plain'],
    ['a moment', '2027-02-14T08:30:00Z', 'moment'],
    ['a moment with a zone', '2027-02-14T08:30+01:00', 'moment'],
    ['a day', '2027-02-14', 'moment'],
    ['no day', '2027-99-99', 'plain'],
    ['a number of bytes', 4096, 'size', 'body_bytes'],
    ['few bytes', 12, 'plain', 'size'],
    ['a number that is not of bytes', 4096, 'plain', 'oversized'],
    ['a picture in a text', 'data:image/png;base64,iVBORw0KGgo=', 'picture'],
    ['a drawing that could hold a script', 'data:image/svg+xml;base64,PHN2Zz4=', 'plain'],
    ['a page in a text', 'data:text/html,<script>alert(1)</script>', 'plain'],
    ['a picture of a tool', { type: 'image', mimeType: 'image/png', data: 'iVBO' }, 'picture'],
    ['a drawing of a tool', { type: 'image', mimeType: 'image/svg+xml', data: 'PHN2' }, 'tree'],
    ['a sound of a tool', { type: 'audio', mimeType: 'audio/wav', data: 'UklG' }, 'sound'],
    ['words', ['larch', 'kestrel', 3], 'line'],
    ['words of which one is a sentence', ['larch', 'x'.repeat(61)], 'tree'],
    ['rows', [{ hut: 'larch', bunks: 16 }, { hut: 'kestrel' }], 'table'],
    ['rows without columns', [{}, {}], 'tree'],
    ['rows with too many columns', [Object.fromEntries(Array.from({ length: 13 }, (_, n) => [`c${n}`, n]))], 'tree'],
    ['rows that hold much', [{ hut: 'larch', all: { text: 'x'.repeat(300) } }], 'tree'],
    ['a mixed list', ['larch', { hut: 1 }, null], 'tree'],
    ['fields', { hut: 'larch' }, 'tree'],
  ];
  for (const [what, value, look, name] of LOOKS)
    it(`${what} is shown as ${look}`, () => expect(lookOf(value, name ?? '').look).to.equal(look));

  it('says yes and no, what nothing is, and every column of rows', () => {
    expect(lookOf(true)).to.include({ text: 'yes' });
    expect(lookOf('')).to.include({ says: 'an empty text' });
    expect(lookOf([{ a: 1 }, { b: 2 }])).to.deep.include({ columns: ['a', 'b'] });
  });

  it('tells what was cut from what only looks like it', () => {
    expect(lookOf({ cut: true, characters: 5_000_000, beginning: 'once' })).to.deep.equal({
      ...{ look: 'cut', characters: 5_000_000, beginning: 'once' },
    });
    expect(lookOf({ cut: true, hut: 'larch' }).look).to.equal('tree');
  });

  it('looks at ten thousand rows without going through all of their cells', () => {
    const rows = Array.from({ length: 10_000 }, (_, id) => ({ id, hut: 'larch' }));
    expect(lookOf(rows)).to.deep.include({ look: 'table', columns: ['id', 'hut'] });
  });
});

describe('times and counts as the console says them', function () {
  this.timeout(120_000);
  const modules = consoleModules();
  interface Format {
    moment(iso: string | null, now?: number): string;
    took(start: string, end: string | null): string;
    brief(value: unknown, width?: number): string;
    words(name: string): string;
    plural(count: number, one: string, many?: string): string;
  }
  let format: Format;
  before(async () => {
    format = await modules.load('state/format.ts');
  });
  const NOON = new Date(2027, 1, 14, 12).getTime();
  const HOUR = 3_600_000;
  const ago = (time: number) => format.moment(new Date(NOON - time).toISOString(), NOON);

  it('are near or far', () => {
    expect(ago(20_000)).to.equal('just now');
    expect(ago(-20_000)).to.equal('in a moment');
    expect(ago(5 * 60_000)).to.match(/5 min/);
    expect(ago(3 * HOUR)).to.match(/3 h/);
    expect(ago(15 * HOUR), 'last evening').to.match(/^yesterday, /);
    expect(ago(40 * 24 * HOUR)).to.match(/2027|27/);
    expect(ago(-26 * HOUR), 'tomorrow').not.to.match(/yesterday/);
    expect(format.moment(null)).to.equal('never');
  });

  it('of values are short, and one is not many', () => {
    expect(format.brief({ hut: 'larch' })).to.equal('{"hut":"larch"}');
    expect(format.brief('x'.repeat(200), 10)).to.equal(`${'x'.repeat(9)}…`);
    expect(format.brief(undefined)).to.equal('');
    expect(format.words('reserve_bunks-now')).to.equal('reserve bunks now');
    expect(format.plural(1, 'step')).to.equal('1 step');
    expect(format.plural(0, 'entry', 'entries')).to.equal('0 entries');
    expect(format.took('2027-02-14T08:00:00Z', null)).to.equal('running');
    expect(format.took('2027-02-14T08:00:00Z', '2027-02-14T08:00:02Z')).to.match(/^2(\.0+)? s$/);
  });
});

describe('a table as CSV in the console', function () {
  this.timeout(120_000);
  const modules = consoleModules();
  interface Csv {
    readCsv(text: string, columns: object[]): { rows: JsonObject[]; faults: string[] };
  }
  const columns = [
    { name: 'hut', type: 'text' },
    { name: 'bunks', type: 'whole' },
    { name: 'open', type: 'boolean' },
    { name: 'since', type: 'date' },
  ];
  let read: (text: string) => ReturnType<Csv['readCsv']>;
  before(async () => {
    const { readCsv } = await modules.load<Csv>('table/csv.ts');
    read = (text) => readCsv(text, columns);
  });

  it('is read by the names of its first line, whatever their order, without the ids', () => {
    expect(read('﻿bunks,id, hut ,open\r\n16,7," Larch, upper",true\r\n,,"",\n')).to.deep.equal({
      faults: [],
      rows: [
        { bunks: 16, hut: ' Larch, upper', open: true },
        { bunks: null, hut: '', open: null },
      ],
    });
  });

  it('is told in every line what is wrong with it', () => {
    const { faults } = read('hut,bunks,open,since\nlarch,many,yes,14.2.2027\nkestrel,8,true\nlarch,8,true,2027-02-14');
    expect(faults).to.deep.equal([
      'Line 2: "many" in column "bunks" is not an integer.',
      'Line 2: "yes" in column "open" is not true or false.',
      'Line 2: "14.2.2027" in column "since" is not a date such as 2027-02-14.',
      'Line 3 has 3 values instead of 4.',
    ]);
    expect(read('hut,colour,hut\na,b,c').faults).to.deep.equal([
      'The table has no column "colour". It has hut, bunks, open, since.',
      'Column "hut" occurs twice in the first line. Rename or delete one of them.',
    ]);
  });

  const NONE: [string, string][] = [
    ['a line with too many cells', 'hut,bunks\nlarch,1,2'],
    ['a quote that is not closed', 'hut\n"larch'],
    ['a picture', '\u0000\u0001\u0002"'],
  ];
  for (const [what, text] of NONE)
    it(`${what} is no table, and nothing of it is taken in`, () => {
      const { rows, faults } = read(text);
      expect(faults, JSON.stringify(faults)).to.have.length.above(0);
      expect(rows.filter((row) => Object.keys(row).length > 0)).to.deep.equal([]);
    });

  it('is written so that it is read again as it was', async () => {
    const { stringify } = await import('csv-stringify/sync');
    const texts = [' two words ', 'a,"b"\nc', '\ttab', '0012', '=1+1', 'true', '', null];
    const rows = texts.map((hut) => ({ hut, bunks: 1 }));
    const two = columns.slice(0, 2) as { name: string; type: 'text' }[];
    const written = stringify([['hut', 'bunks'], ...rows.map((row) => writeCsvRecord(row, two))], CSV_WRITING);
    expect(written.split('\r\n')).to.have.length(texts.length + 2);
    expect(read(written)).to.deep.equal({ faults: [], rows });
  });

  it('may be empty', () => {
    for (const text of ['', '\n\n', 'hut,bunks\n']) expect(read(text), text).to.deep.equal({ rows: [], faults: [] });
  });
});

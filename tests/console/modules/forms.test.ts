import { describeType, type Json, type JsonObject, type JsonSchema } from '@pindro/core/browser';
import { expect } from 'chai';
import { consoleModules } from '../../support/console-modules.js';

interface Shape {
  sort: string;
  [more: string]: unknown;
}
interface ShapeModule {
  shapeOf(schema: JsonSchema): Shape;
  wayOf(ways: JsonSchema[], value: Json | undefined): number;
  wayWords(schema: JsonSchema): string;
  blankOf(schema: JsonSchema): Json;
}
interface Field {
  name: string;
  schema: JsonSchema & { words?: Record<string, string>; enum?: Json[] };
  required: boolean;
  common: boolean;
}
interface SchemaModule {
  fieldsOf(schema: JsonSchema, value: JsonObject): Field[];
  labelOf(name: string, schema: JsonSchema): string;
  resolved(schema: JsonSchema, root: JsonSchema): JsonSchema;
}

describe('forms of the console: how a field is filled in', function () {
  this.timeout(120_000);
  const modules = consoleModules();
  let shape: ShapeModule;
  before(async () => {
    shape = await modules.load('forms/shape.ts');
  });

  const PLAIN: [string, JsonSchema, string][] = [
    ['a text', { type: 'string' }, 'text'],
    ['a text or nothing', { type: ['string', 'null'] }, 'text'],
    ['a text or nothing, as ways', { anyOf: [{ type: 'string' }, { type: 'null' }] }, 'text'],
    ['one of several plain types', { type: ['string', 'number'] }, 'scalar'],
    ['plain ways', { anyOf: [{ type: 'string' }, { type: 'number' }, { type: 'boolean' }] }, 'scalar'],
    ['a plain type or a list', { type: ['string', 'array'] }, 'union'],
    ['yes or no', { type: 'boolean' }, 'yes-no'],
    ['a whole number', { type: 'integer' }, 'number'],
    ['what is counted up', { enum: ['larch', 'kestrel'] }, 'choice'],
    ['what is counted up one by one', { oneOf: [{ const: 1 }, { const: 2 }] }, 'choice'],
    ['what each may stand in once', { type: 'array', uniqueItems: true, items: { enum: ['GET', 'PUT'] } }, 'several'],
    ['what may stand in it again', { type: 'array', items: { enum: ['larch', 'kestrel'] } }, 'list'],
    ['a list', { type: 'array', items: { type: 'string' } }, 'list'],
    ['fields with names', { type: 'object', properties: { hut: { type: 'string' } } }, 'group'],
    ['fields without a type', { properties: { hut: {} } }, 'group'],
    ['fields that one names oneself', { type: 'object', additionalProperties: { type: 'integer' } }, 'record'],
    ['an object of nothing known', { type: 'object' }, 'record'],
    ['anything', {}, 'any'],
    ['another table', { type: 'string', form: 'table' }, 'reference'],
    ['a duration', { type: 'string', form: 'duration' }, 'duration'],
    ['a form nobody knows', { type: 'integer', form: 'from-the-future' }, 'number'],
  ];
  for (const [what, schema, sort] of PLAIN)
    it(`${what} is a ${sort}`, () => expect(shape.shapeOf(schema).sort).to.equal(sort));

  it('a text is long, secret or a day by what its schema says', () => {
    expect(shape.shapeOf({ type: 'string', maxLength: 4000 })).to.include({ long: true });
    expect(shape.shapeOf({ type: 'string', maxLength: 200 })).to.include({ long: false });
    for (const schema of [
      { type: 'string', writeOnly: true },
      { type: 'string', format: 'password' },
    ] as JsonSchema[])
      expect(shape.shapeOf(schema)).to.include({ secret: true });
    expect(shape.shapeOf({ type: 'string', format: 'date' })).to.include({ date: true });
    expect(shape.shapeOf({ type: 'string', form: 'code' })).to.include({ long: true, code: true });
  });

  it('ways that one property tells apart are one group with a choice, others a choice of ways', () => {
    const find = { properties: { do: { const: 'find' } } };
    const add = { properties: { do: { const: 'add' } } };
    expect(shape.shapeOf({ oneOf: [find, add] } as JsonSchema).sort).to.equal('group');
    const union = shape.shapeOf({ anyOf: [{ type: 'string' }, { type: 'object', properties: { to: {} } }] });
    expect(union).to.deep.include({ sort: 'union' });
    expect(union.ways).to.have.length(2);
  });

  it('a value shows the way it takes', () => {
    const ways: JsonSchema[] = [
      { type: 'string' },
      { type: 'object', required: ['file'] },
      { type: 'object', required: ['text'] },
      { type: 'array' },
      { const: false },
    ];
    expect(shape.wayOf(ways, 'larch')).to.equal(0);
    expect(shape.wayOf(ways, { file: 'map' })).to.equal(1);
    expect(shape.wayOf(ways, { text: 'map' })).to.equal(2);
    expect(shape.wayOf(ways, [])).to.equal(3);
    expect(shape.wayOf(ways, false)).to.equal(4);
    for (const other of [undefined, null, { other: 1 }]) expect(shape.wayOf(ways, other), String(other)).to.equal(0);
    expect(shape.wayOf([{ type: 'integer' }, { type: 'number' }], 7)).to.equal(0);
    // An object that takes its required name from its kind does not have it.
    expect(shape.wayOf([{ required: ['toString'] }, {}], {})).to.equal(1);
  });

  it('a way is called by its title, else by what it takes', () => {
    expect(shape.wayWords({ title: 'A file', type: 'object' })).to.equal('A file');
    expect(shape.wayWords({ type: ['string', 'integer'] })).to.equal('a string or an integer');
    expect(shape.wayWords({})).to.equal('any value');
  });

  it('what is added begins with what its schema has, and no more than it must', () => {
    const blank = (schema: JsonSchema) => shape.blankOf(schema);
    expect(blank({ type: 'integer', minimum: 1 })).to.equal(1);
    expect(blank({ type: 'integer', minimum: 1, default: 4 })).to.equal(4);
    expect(blank({ type: 'boolean', default: true })).to.equal(true);
    expect(blank({ enum: ['GET', 'POST'] })).to.equal('GET');
    expect(blank({ type: 'array', items: {} })).to.deep.equal([]);
    expect(blank({ form: 'duration' })).to.equal('10s');
    expect(blank({ type: 'object', additionalProperties: {} })).to.deep.equal({});
    const line: JsonSchema = {
      type: 'object',
      required: ['item', 'quantity', 'kept'],
      properties: {
        item: { type: 'string' },
        quantity: { type: 'integer', minimum: 1 },
        note: { type: 'string' },
        kept: { type: 'object', required: ['dry'], properties: { dry: { type: 'boolean' } } },
      },
    };
    expect(blank(line)).to.deep.equal({ item: '', quantity: 1, kept: { dry: false } });
    expect(blank({ anyOf: [line, { type: 'array' }] })).to.deep.equal(blank(line));
  });
});

describe('forms of the console: the fields of a form', function () {
  this.timeout(120_000);
  const modules = consoleModules();
  let schema: SchemaModule;
  before(async () => {
    schema = await modules.load('forms/schema.ts');
  });

  it('are those of the choice that was made, with the choice where it stands', () => {
    const option = (name: string, title: string, rest: object) => ({
      type: 'object',
      required: ['table', 'do'],
      properties: { table: { type: 'string' }, do: { const: name, title }, ...rest },
    });
    const table = {
      oneOf: [option('find', 'find rows', { limit: { default: 10 } }), option('add', 'add a row', { row: {} })],
    } as JsonSchema;
    const names = (value: JsonObject) => schema.fieldsOf(table, value).map(({ name }) => name);
    expect(names({ do: 'add' })).to.deep.equal(['table', 'do', 'row']);
    expect(names({})).to.deep.equal(['table', 'do', 'limit']);
    expect(names({ do: 'from the future' })).to.deep.equal(['table', 'do', 'limit']);
    const choice = schema.fieldsOf(table, {})[1]!;
    expect(choice.schema).to.deep.include({ enum: ['find', 'add'], words: { find: 'find rows', add: 'add a row' } });
  });

  it('need what has no value of its own', () => {
    const fields = schema.fieldsOf(
      {
        required: ['method', 'url'],
        properties: { method: { default: 'GET' }, url: { type: 'string' }, colour: {}, size: { common: true } },
      } as JsonSchema,
      {},
    );
    expect(fields.map(({ name, required, common }) => [name, required, common])).to.deep.equal([
      ['method', false, false],
      ['url', true, false],
      ['colour', false, false],
      ['size', false, true],
    ]);
  });

  it('are called by their title, else by their name as people write it', () => {
    expect(schema.labelOf('max_size', { title: 'The largest' })).to.equal('The largest');
    expect(schema.labelOf('max_size', {})).to.equal('Max size');
    expect(schema.labelOf('read-only', { title: '' })).to.equal('Read only');
  });

  it('have what they refer to in its place, and a circle ends', () => {
    const root = {
      $defs: {
        hut: { type: 'string', enum: ['larch', 'kestrel'] },
        trail: { type: 'object', properties: { next: { $ref: '#/$defs/trail' } } },
      },
      type: 'object',
      properties: {
        hut: { $ref: '#/$defs/hut', description: 'Where' },
        way: { $ref: '#/$defs/trail' },
        one: { allOf: [{ $ref: '#/$defs/hut' }], title: 'One' },
        gone: { $ref: '#/$defs/nowhere' },
      },
    } as unknown as JsonSchema;
    const { hut, way, one, gone } = schema.resolved(root, root).properties as Record<string, JsonObject>;
    expect(hut).to.deep.equal({ type: 'string', enum: ['larch', 'kestrel'], description: 'Where' });
    expect(one).to.deep.include({ enum: ['larch', 'kestrel'], title: 'One' });
    expect(way).to.have.nested.property('properties.next.properties.next');
    expect(JSON.stringify(way).length).to.be.below(2000);
    expect(gone).to.deep.equal({ $ref: '#/$defs/nowhere' });
  });

  it('say in words what they take and what holds without them', async () => {
    const { humanDefault } = await modules.load<{ humanDefault(schema: JsonSchema): string }>('forms/defaults.ts');
    expect(describeType({ type: 'integer', minimum: 1, maximum: 40 })).to.equal('integer, 1 to 40');
    expect(describeType({ type: 'number', minimum: 0 })).to.equal('number, at least 0');
    expect(describeType({ type: 'number', maximum: 9 })).to.equal('number, at most 9');
    expect(describeType({ type: 'string', format: 'date' })).to.equal('string (date)');
    expect(describeType({ enum: ['kestrel', 'larch'] })).to.equal('one of kestrel, larch');
    expect(describeType({ enum: Array.from({ length: 100 }, (_, n) => `hut ${n}`) })).to.have.length(80);
    expect(describeType({})).to.equal('any value');
    expect(humanDefault({ default: true })).to.equal('. Default: yes');
    expect(humanDefault({ default: 8, unit: 'rounds' })).to.equal('. Default: 8 rounds');
    expect(humanDefault({ default: 'read_only' })).to.equal('. Default: read only');
    for (const nothing of [{}, { default: null }, { default: '' }, { default: {} }] as JsonSchema[])
      expect(humanDefault(nothing)).to.equal('');
  });
});

describe('forms of the console: conditions and declared inputs', function () {
  this.timeout(120_000);
  const modules = consoleModules();

  interface Condition {
    column: string;
    comparison: string;
    value: Json;
  }
  interface ConditionsModule {
    COMPARISONS: { word: string }[];
    readCondition(column: string, written: Json): Condition;
    writeCondition(condition: Omit<Condition, 'column'>): Json;
    withCondition(where: JsonObject, old: string, next: Condition): JsonObject;
  }

  it('every comparison is read as it was written', async () => {
    const { COMPARISONS, readCondition, writeCondition } = await modules.load<ConditionsModule>('forms/conditions.ts');
    expect(COMPARISONS).to.have.length(8);
    for (const { word } of COMPARISONS)
      for (const value of (word === 'in' ? [[], ['larch', 2]] : ['larch', 0, false, null]) as Json[]) {
        const condition = { column: 'hut', comparison: word, value };
        expect(readCondition('hut', writeCondition(condition)), `${word} ${value}`).to.deep.equal(condition);
      }
  });

  it('another comparison keeps the value as far as it fits', async () => {
    const { writeCondition } = await modules.load<ConditionsModule>('forms/conditions.ts');
    const write = (comparison: string, value: Json) => writeCondition({ comparison, value });
    expect(write('in', 'larch')).to.deep.equal({ in: ['larch'] });
    expect(write('in', '')).to.deep.equal({ in: [] });
    expect(write('is', ['larch', 'kestrel'])).to.equal('larch');
    expect(write('gt', [3, 4])).to.deep.equal({ gt: 3 });
    expect(write('is', [])).to.equal('');
  });

  it('what no form knows stays a value, and a changed column keeps its place', async () => {
    const { readCondition, withCondition } = await modules.load<ConditionsModule>('forms/conditions.ts');
    expect(readCondition('hut', { near: 'larch' })).to.deep.equal({
      ...{ column: 'hut', comparison: 'is', value: { near: 'larch' } },
    });
    const where = { hut: 'larch', bunks: { gte: 10 }, open: true };
    const next = { column: 'beds', comparison: 'lt', value: 4 };
    expect(Object.entries(withCondition(where, 'bunks', next))).to.deep.equal([
      ['hut', 'larch'],
      ['beds', { lt: 4 }],
      ['open', true],
    ]);
    expect(Object.keys(withCondition(where, 'new', next))).to.deep.equal(['hut', 'bunks', 'open', 'beds']);
  });

  it('inputs are put, renamed in their place, needed or not, and taken out', async () => {
    interface Properties {
      putProperty(schema: JsonSchema, name: string, inner: JsonSchema, needed: boolean): JsonSchema;
      removeProperty(schema: JsonSchema, name: string): JsonSchema;
      renameProperty(schema: JsonSchema, name: string, wanted: string): JsonSchema;
      changed(schema: JsonSchema, change: JsonObject): JsonSchema;
      PROPERTY_NAME: RegExp;
    }
    const form = await modules.load<Properties>('forms/properties.ts');
    const hut = form.putProperty({ description: 'Which' }, 'hut', { type: 'string' }, true);
    expect(hut).to.deep.equal({
      ...{ description: 'Which', type: 'object', required: ['hut'], properties: { hut: { type: 'string' } } },
    });
    const two = form.putProperty(hut, 'party', { type: 'integer' }, true);
    const renamed = form.renameProperty(two, 'hut', 'house');
    expect(Object.keys(renamed.properties as object)).to.deep.equal(['house', 'party']);
    expect(renamed.required).to.deep.equal(['house', 'party']);
    expect(form.putProperty(two, 'hut', { type: 'string' }, false).required).to.deep.equal(['party']);
    expect(form.removeProperty(hut, 'hut')).to.deep.equal({ description: 'Which', type: 'object', properties: {} });
    expect(form.changed({ type: 'string', format: 'date' }, { format: '', title: 'Day' })).to.deep.equal({
      ...{ type: 'string', title: 'Day' },
    });
    for (const name of ['2nd', 'with space', 'a-b', '']) expect(form.PROPERTY_NAME.test(name), name).to.equal(false);
  });
});

describe('forms of the console: values in reach', function () {
  this.timeout(120_000);
  const modules = consoleModules();
  interface Reachable {
    path: string;
    about: string;
    value?: Json;
  }
  interface Typed {
    text: string;
    cursor: number;
  }
  interface ReachModule {
    reachable(known: object): Reachable[];
    expressionAt(text: string, cursor: number): { from: number; word: string } | null;
    closed(before: string, typed: Typed): Typed;
    withPath(path: string, typed: Typed): Typed;
  }
  const card = (name: string, output: JsonObject) => ({ name, output });
  const nothing = { input: {}, before: [], lastInput: undefined, lastOutputs: {}, inLoop: false };
  let reach: ReachModule;
  before(async () => {
    reach = await modules.load('forms/reach.ts');
  });

  it('are inputs, what steps before give, and what is always there, with what they held', () => {
    const list = reach.reachable({
      ...nothing,
      input: { properties: { hut: { type: 'string' }, 'odd name': {} } },
      before: [card('look', { count: 'whole number', rows: 'list' }), card('never_ran', { text: 'text' })],
      lastInput: { hut: 'larch' },
      lastOutputs: { look: { count: 1, rows: [{ name: 'Larch', bunks: 16 }] } },
    });
    const at = (path: string) => list.find((one) => one.path === path);
    expect(at('input.hut')).to.deep.equal({ path: 'input.hut', about: 'string', value: 'larch' });
    expect(at('input["odd name"]')).to.deep.equal({ path: 'input["odd name"]', about: 'input' });
    expect(at('steps.look.count')).to.deep.equal({ path: 'steps.look.count', about: 'whole number', value: 1 });
    expect(at('steps.look.rows[0].name')).to.include({ value: 'Larch' });
    expect(at('steps.never_ran.text')).to.deep.equal({ path: 'steps.never_ran.text', about: 'text' });
    expect(at('clock.today')).to.deep.equal({ path: 'clock.today', about: 'today' });
    expect(at('item')).to.equal(undefined);
    expect(reach.reachable({ ...nothing, inLoop: true }).map(({ path }) => path)).to.include.members(['item', 'index']);
  });

  it('of endless data stay few', () => {
    const wide = Object.fromEntries(Array.from({ length: 5000 }, (_, n) => [`f${n}`, { deep: { deeper: n } }]));
    let deep: Json = 'bottom';
    for (let n = 0; n < 1000; n++) deep = { down: deep };
    const list = reach.reachable({ ...nothing, before: [card('a', {})], lastOutputs: { a: { wide, deep } } });
    expect(list.length).to.be.below(6000);
    expect(Math.max(...list.map(({ path }) => path.split('.').length))).to.be.below(10);
  });

  it('are offered where an expression is being written, and nowhere else', () => {
    const at = (marked: string) => reach.expressionAt(marked.replace('|', ''), marked.indexOf('|'));
    expect(at('Hello ${ steps.lo|ok }')).to.deep.equal({ from: 9, word: 'steps.lo' });
    expect(at('${|')).to.deep.equal({ from: 2, word: '' });
    expect(at('${ a == steps.look.rows[0].na|')).to.deep.equal({ from: 8, word: 'steps.look.rows[0].na' });
    for (const outside of ['Hello |', '${ a } and |', '|${ a }', '{ a|']) expect(at(outside), outside).to.equal(null);
  });

  /** A text with the cursor where the stroke stands. */
  const typed = (marked: string) => ({ text: marked.replace('|', ''), cursor: marked.indexOf('|') });
  const marked = ({ text, cursor }: { text: string; cursor: number }) =>
    `${text.slice(0, cursor)}|${text.slice(cursor)}`;

  for (const [before, now, expected] of [
    ['For $', 'For ${|', 'For ${|}'],
    ['For $ and', 'For ${| and', 'For ${|} and'],
    ['For $}', 'For ${|}', 'For ${|}'],
    ['For $$', 'For $${|', 'For $${|'],
    ['', 'For ${|', 'For ${|'],
    ['{', '{}|', '{}|'],
  ] as const)
    it(`an expression that is begun in "${before}" is closed behind the cursor`, () =>
      expect(marked(reach.closed(before, typed(now)))).to.equal(expected));

  for (const [before, expected] of [
    ['For ${ call|', 'For ${ caller.id }|'],
    ['For ${call|}', 'For ${ caller.id }|'],
    ['For ${ call|   }.', 'For ${ caller.id }|.'],
    ['For ${|} and ${ b }', 'For ${ caller.id }| and ${ b }'],
    ['For ${ call| and ${ b }', 'For ${ caller.id }| and ${ b }'],
    ['For ${ call| + "x" }', 'For ${ caller.id| + "x" }'],
    ['For ${ 1 + call|}', 'For ${ 1 + caller.id }|'],
    ['For |.', 'For ${ caller.id }|.'],
    ['${ a }|', '${ a }${ caller.id }|'],
  ] as const)
    it(`a value that is chosen in "${before}" leaves the cursor where one goes on`, () =>
      expect(marked(reach.withPath('caller.id', typed(before)))).to.equal(expected));
});

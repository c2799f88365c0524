import { stepKinds } from '@pindro/core';
import { type Lift, startModel } from '@pindro/standins';
import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { z } from 'zod';
import { openBrowser } from '../support/browser.js';
import { Builder } from '../support/builder.js';
import { ConsoleModules } from '../support/console-modules.js';
import { FormFiller, type FormKnowledge } from '../support/form-filler.js';
import { LIFT_KEY, startTestLift, type Workspace, workspace } from '../support/workspace.js';

const CONSOLE = new URL('../../../packages/console/dist', import.meta.url).pathname;

const schemaOf = (kind: string) => {
  const found = stepKinds().find(({ name }) => name === kind)!;
  return z.toJSONSchema(found.config, { io: 'input', unrepresentable: 'any' }) as never;
};

/** What each kind is to say once its form is filled. Together they use every sort of field. */
const WANTED: Record<string, object[]> = {
  http: [
    {
      method: 'POST',
      url: 'https://provisions.example/orders',
      headers: { 'X-Desk': 'larch', 'X-Try': 2 },
      json: { lines: [{ item: 'flour', quantity: 2, urgent: true }], note: null },
      accept: [404, 409],
      pages: { by: 'cursor', items: 'data.items', up_to: 3 },
      max_size: 2,
      read: 'json',
    },
    {
      method: 'PUT',
      url: 'https://provisions.example/files',
      multipart: { name: 'map', file: { file: 'a.txt', text: 'x' } },
    },
  ],
  table: [
    {
      table: 'huts',
      do: 'find',
      where: { name: '${ input.hut }', bunks: { gte: 10 } },
      any: [{ name: { contains: 'l' } }, { name: { in: ['kestrel', 'larch'] } }],
      sort: 'bunks',
      descending: true,
      limit: 5,
    },
    { table: 'huts', do: 'add', row: { name: 'stonewater', bunks: 40 }, unless: { sum: 'bunks', over: 100 } },
    {
      table: 'huts',
      do: 'change',
      where: { name: 'larch' },
      set: { bunks: '${ row.bunks + 1 }' },
      when: '${ row.bunks > 0 }',
    },
    { table: 'huts', do: 'upsert', key: ['name'], row: { name: 'larch', bunks: 17 } },
    { table: 'huts', do: 'remove', where: { name: { not: 'larch' } } },
  ],
  mail: [
    { to: ['ines@alder-ridge.example', 'tobias@alder-ridge.example'], subject: 'Hello', text: 'Two\nlines' },
    { to: 'marit@alder-ridge.example', subject: 'Hello', text: 'One', html: '<b>One</b>' },
  ],
  text: [{ text: 'Hello ${ input.name }' }],
  shape: [{ value: { hut: 'larch', guests: '${ input.party }', names: ['a', 'b'], open: false } }],
  script: [{ code: 'return data.a + 1', data: { a: 1 }, time: '5s', memory: 64 }],
  choose: [{ when: { many: '${ input.party > 8 }', few: '${ input.party < 3 }' } }],
  each: [{ list: ['kestrel', 'larch'], flow: 'small', input: { hut: '${ item }' }, at_once: 3, on_failure: 'collect' }],
  flow: [{ flow: 'small', input: { hut: 'larch' }, wait: false }],
  tool: [
    { server: 'lift', tool: 'no_such_tool', arguments: { hut: 'larch', weight_kg: 200 } },
    { server: 'lift', do: 'list' },
  ],
  model: [
    {
      model: 'house',
      instructions: 'Be brief.',
      message: '${ input.message }',
      schema: {
        type: 'object',
        required: ['hut', 'party'],
        properties: { hut: { type: 'string' }, party: { type: 'integer' } },
      },
    },
  ],
  agent: [
    {
      model: 'house',
      instructions: 'Keep the desk.',
      message: '${ input.message }',
      memory: { key: ['${ session.id }', 'desk'], turns: 4, shared: true },
      toolbox: [{ flow: 'small', name: 'look', description: 'Looks it up' }],
      limits: { rounds: 4, time: '2m', tokens: 9000 },
    },
  ],
  approve: [
    { title: 'Send it?', message: 'It is heavy', facts: { weight: 300, to: '${ input.hut }' }, expires: '12h' },
  ],
  wait: [{ for: '10m' }],
  answer: [{ result: { ok: true } }],
  stop: [{ as: 'failed', message: 'No room', result: 'nothing' }],
};

describe('forms of the step kinds', function () {
  this.timeout(240_000);
  const modules = new ConsoleModules();
  let knowledge: FormKnowledge;
  before(async () => {
    await modules.open();
    const shape = await modules.load<Pick<FormKnowledge, 'shapeOf' | 'wayOf'>>('forms/shape.ts');
    const schema = await modules.load<Pick<FormKnowledge, 'fieldsOf' | 'labelOf'>>('forms/schema.ts');
    const conditions = await modules.load<
      Pick<FormKnowledge, 'readCondition'> & { COMPARISONS: FormKnowledge['comparisons'] }
    >('forms/conditions.ts');
    knowledge = {
      ...{ shapeOf: shape.shapeOf, wayOf: shape.wayOf, fieldsOf: schema.fieldsOf, labelOf: schema.labelOf },
      ...{ readCondition: conditions.readCondition, comparisons: conditions.COMPARISONS },
    };
  });
  after(() => modules.close());

  it('have a field of its own for everything that a kind takes, with a title and a word on it', () => {
    type Schema = Record<string, never>;
    const faults: string[] = [];
    const look = (schema: Schema, at: string, named: boolean) => {
      const { sort, ...shape } = knowledge.shapeOf(schema) as { sort: string } & Record<string, Schema[] & Schema>;
      if (named && !schema.title) faults.push(`${at} has no title`);
      if (named && !schema.description) faults.push(`${at} has no description`);
      // Where a schema says what may stand, a form that takes anything has fallen back.
      if (
        sort === 'any' &&
        Object.keys(schema).some((key) => ['type', 'properties', 'items', 'anyOf', 'oneOf'].includes(key))
      )
        faults.push(`${at} falls back to any value`);
      if (sort === 'group')
        for (const field of knowledge.fieldsOf(schema, {})) look(field.schema as Schema, `${at}.${field.name}`, true);
      if (sort === 'list') look(shape.item!, `${at}[]`, false);
      if (sort === 'record') look(shape.inner!, `${at}{}`, false);
      if (sort === 'union')
        for (const [index, way] of (shape.ways as Schema[]).entries()) look(way, `${at}|${index}`, false);
    };
    for (const { name } of stepKinds()) {
      const schema = schemaOf(name) as { oneOf?: Schema[] };
      for (const way of schema.oneOf ?? [schema as Schema])
        for (const field of knowledge.fieldsOf(way, {}))
          look(field.schema as Schema, `${name}.${field.name}`, (field.schema as Schema).const === undefined);
    }
    expect(faults).to.deep.equal([]);
  });

  it('know every kind', () => {
    expect(Object.keys(WANTED).sort()).to.deep.equal(
      stepKinds()
        .map(({ name }) => name)
        .sort(),
    );
  });

  describe('filled by what is written on them', () => {
    let house: Workspace;
    let lift: Lift;
    let model: Awaited<ReturnType<typeof startModel>>;
    let browser: Browser;
    let page: Page;
    let build: Builder;
    const faults: string[] = [];
    before(async () => {
      lift = await startTestLift();
      model = await startModel({});
      house = await workspace({ console: CONSOLE });
      const { tables, servers, models, flows } = house.service;
      tables.definitions.create('huts', { name: 'text', bunks: 'whole' });
      flows.drafts.save(
        'format: pindro/flow@1\nname: small\ninput: { type: object, required: [hut], properties: { hut: { type: string } } }\nsteps: { a: { kind: text, with: { text: hello } } }\n',
      );
      await servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
      await models.add({
        name: 'house',
        dialect: 'chat-completions',
        base: model.url,
        model: 'hut-keeper',
        credential: null,
        settings: {},
      });
      browser = await openBrowser();
      page = await (await browser.newContext({ viewport: { width: 1400, height: 1000 } })).newPage();
      page.setDefaultTimeout(10_000);
      page.on('pageerror', (error) => faults.push(error.message));
      await page.goto(house.service.createSignInLink());
      build = new Builder(page, house.service.url);
    });
    after(async () => {
      await browser.close();
      await house.close();
      await Promise.all([lift.close(), model.close()]);
    });
    afterEach(async function () {
      if (this.currentTest?.state === 'failed' && process.env.SHOT) await page.screenshot({ path: process.env.SHOT });
      expect(faults.splice(0), 'errors in the browser').to.deep.equal([]);
    });

    for (const [kind, wanted] of Object.entries(WANTED))
      for (const [index, config] of wanted.entries())
        it(`${kind}${wanted.length > 1 ? `, ${index + 1} of ${wanted.length}` : ''}`, async () => {
          const name = `try-${kind}-${index + 1}`;
          // Begun with nothing, so that all there is in the end came out of the form.
          const begun = kind === 'choose' ? { when: { way: '' } } : {};
          const document = { format: 'pindro/flow@1', name, steps: { one: { kind, with: begun } } };
          await house.api.saveDraft({ name, body: { document } });
          await page.goto(`${house.service.url}/flows/${name}?step=one`);
          await build.aside.getByLabel('Name of the step').waitFor();
          const filler = new FormFiller(build, knowledge);
          await filler.fields(schemaOf(kind), config as never, build.aside);
          await build.saved();
          const saved = (await house.api.getFlow({ name })).document as { steps: { one: { with: object } } };
          expect(saved.steps.one.with).to.deep.equal(config);
        });
  });
});

import type { KeySummary } from '@pindro/contract';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import { type Lift, type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';
import { consoleModules } from '../../support/console-modules.js';
import { furnish, LIFT_KEY, startTestLift, type Workspace, workspace } from '../../support/workspace.js';

interface Starter {
  name: string;
  title: string;
  about: string;
  form?: boolean;
  document(around: { models: string[]; endpoints: string[]; servers: string[] }): JsonObject;
}

/** What each starter is tried with, and what should come of it. */
const TRIES: Record<string, { input: JsonObject; says: RegExp | null }> = {
  agent: { input: { message: 'Is the lift going?' }, says: /.+/ },
  'ask-first': { input: { request: 'A new stove for Larch' }, says: null },
  'form-mail': { input: { name: 'Ines', email: 'ines@alder-ridge.example', question: 'Is Larch open?' }, says: null },
  'web-to-text': { input: { url: 'https://alder-ridge.example/huts' }, says: null },
  'list-report': { input: { items: ['flour', 'salt'] }, says: /1\. flour\n2\. salt/ },
};

describe('flows to begin with', function () {
  this.timeout(120_000);
  const modules = consoleModules();
  let starters: Starter[];
  let house: Workspace;
  let lift: Lift;
  let model: Model;
  before(async () => {
    ({ STARTERS: starters } = await modules.load<{ STARTERS: Starter[] }>('parts/resource/starters.ts'));
    [lift, model, house] = await Promise.all([startTestLift(), startModel(), workspace()]);
    furnish(house.service);
    await house.api.attachServer({ body: { name: 'lift', url: lift.url, secret: LIFT_KEY } });
    await house.api.addModel({ body: { name: 'ridge', base: model.url, model: 'house-1' } });
  });
  after(() => Promise.all([house.close(), lift.close(), model.close()]));
  const full = { models: ['ridge'], endpoints: ['huts'], servers: ['lift'] };
  const documentOf = (starter: Starter, around: Parameters<Starter['document']>[0]) => ({
    ...{ format: 'pindro/flow@1', name: `my-${starter.name}`, title: starter.title },
    ...starter.document(around),
  });

  it('are all tried here, and each says what it is', () => {
    expect(starters.map(({ name }) => name)).to.have.members(Object.keys(TRIES));
    for (const { title, about } of starters) {
      expect(title).to.match(/^[A-Z]/);
      expect(about).to.match(/\.$/);
    }
  });

  it('are sound where what they name is there, and each can be published', async () => {
    for (const starter of starters) {
      const document = documentOf(starter, full);
      const { mistakes } = await house.api.saveDraft({
        ...{ name: document.name, body: { document: document, fresh: true } },
      });
      expect(mistakes, starter.name).to.deep.equal([]);
      expect((await house.api.publishFlow({ name: document.name, body: {} })).revision, starter.name).to.equal(1);
    }
  });

  it('lack nothing but a model in an empty workspace', async () => {
    for (const starter of starters) {
      const document = documentOf(starter, { models: [], endpoints: [], servers: [] });
      const name = `empty-${starter.name}`;
      const { mistakes } = await house.api.saveDraft({
        ...{ name, body: { document: { ...document, name }, fresh: true } },
      });
      const lacking = mistakes.filter(({ missing }) => missing).map(({ at }) => at);
      expect(lacking, starter.name).to.deep.equal(starter.name === 'agent' ? ['/steps/desk/with/model'] : []);
      expect(mistakes.length, starter.name).to.equal(lacking.length);
    }
  });

  for (const [name, { input, says }] of Object.entries(TRIES))
    if (says)
      it(`"${name}" does what it says`, async () => {
        const { state, result } = await house.api.runFlow({ name: `my-${name}`, body: { input, session: 's1' } });
        expect(state).to.equal('done');
        expect(String(result)).to.match(says);
      });

  it('"ask-first" waits for a person, and tells what was decided', async () => {
    const { api } = house;
    const { run, state } = await api.runFlow({ name: 'my-ask-first', body: { input: TRIES['ask-first']!.input } });
    expect(state).to.equal('waiting');
    const [asked] = (await api.listApprovals()).items;
    expect(asked).to.include({ run, title: 'A new stove for Larch' });
  });
});

describe('what a key may do, as a form', function () {
  this.timeout(120_000);
  const modules = consoleModules();
  interface Keys {
    keySchema(around: object): JsonSchema & { properties: Record<string, JsonObject> };
    valueOfKey(key: KeySummary): JsonObject;
    limitsOf(key: KeySummary): string;
  }
  let keys: Keys;
  let shapeOf: (schema: JsonObject) => { sort: string };
  before(async () => {
    keys = await modules.load('keys/schema.ts');
    ({ shapeOf } = await modules.load<{ shapeOf: typeof shapeOf }>('forms/shape.ts'));
  });
  const plain = { tools: [], ownServers: [], workshop: false };
  const KEY = {
    ...{ id: 'k1', name: 'ines', caller: 'ines', endpoints: ['huts'], stage: 'live', manage: false, readOnly: false },
    ...{ perMinute: null, attributes: {}, tools: null, propose: false, credentials: {}, expiresAt: null },
  } as unknown as KeySummary;

  it('asks only for what is not known where it is made', () => {
    const names = (around: object) => Object.keys(keys.keySchema({ ...plain, ...around }).properties);
    expect(names({})).to.include.members(['caller', 'endpoints', 'stage', 'expires']);
    expect(names({ endpoint: 'huts' })).not.to.include('endpoints');
    expect(names({})).not.to.include('propose').and.not.include('credentials');
    expect(names({ workshop: true })).to.include('propose');
    expect(names({ ownServers: ['lift'] })).to.include('credentials');
  });

  it('has a field of its own for everything, with a title', () => {
    const { properties } = keys.keySchema({ tools: ['reserve_bunks'], ownServers: ['lift'], workshop: true });
    for (const [name, schema] of Object.entries(properties)) {
      expect(shapeOf(schema).sort, name).not.to.equal('any');
      expect(schema.title, name).to.be.a('string').and.not.equal('');
    }
    expect(shapeOf((properties.tools as { items: JsonObject }).items)).to.deep.include({
      ...{ sort: 'choice', options: ['reserve_bunks'] },
    });
  });

  it('holds what a key has, and nothing that it has not', () => {
    expect(keys.valueOfKey(KEY)).to.deep.equal({ caller: 'ines', endpoints: ['huts'], stage: 'live' });
    const limited = { ...KEY, perMinute: 5, readOnly: true, tools: ['a'], attributes: { hut: 'larch' } } as KeySummary;
    expect(keys.valueOfKey(limited)).to.deep.include({
      ...{ perMinute: 5, readOnly: true, tools: ['a'], attributes: { hut: 'larch' } },
    });
  });

  it('is told in words', () => {
    expect(keys.limitsOf(KEY)).to.equal('none');
    const limited = { ...KEY, perMinute: 5, readOnly: true, tools: ['a', 'b'], credentials: { lift: 'own' } };
    expect(keys.limitsOf(limited as unknown as KeySummary)).to.equal(
      'only a, b; read-only tools; lift with own; 5 calls a minute',
    );
  });
});

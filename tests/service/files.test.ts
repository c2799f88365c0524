import { createServer } from 'node:http';
import { PindroError } from '@pindro/core';
import { FlowChecker } from '@pindro/service/parts';
import { startWholesaler, type Wholesaler } from '@pindro/standins';
import { expect } from 'chai';
import { furnish, RESERVE, type Workspace, workspace } from '../support/workspace.js';

const refusal = (work: Promise<unknown>) =>
  work.then(
    () => expect.fail('it worked'),
    (error) => error.problem,
  );

describe('a workspace as files', () => {
  let house: Workspace;
  let other: Workspace;
  beforeEach(async () => {
    [house, other] = await Promise.all([workspace(), workspace()]);
    furnish(house.service);
    await house.api.addCredential({
      body: { name: 'ridge', kind: 'header', header: 'X-Key', secret: 'never-in-a-file-1' },
    });
    house.service.entries.add({ flow: 'reserve-bunks', on: true, settings: { kind: 'form', button: 'Book' } as never });
    house.service.entries.add({
      flow: 'reserve-bunks',
      on: true,
      settings: { kind: 'hook', guard: 'signature' } as never,
      secret: 'never-in-a-file-2',
    });
  });
  afterEach(() => Promise.all([house.close(), other.close()]));

  it('holds everything but secrets and rows, and is the same each time', async () => {
    const { files } = await house.api.exportWorkspace();
    expect(Object.keys(files)).to.deep.equal([
      'credentials.yaml',
      'endpoints/huts.yaml',
      'entries/reserve-bunks.yaml',
      'flows/reserve-bunks.yaml',
      'keys.yaml',
      'live/reserve-bunks.yaml',
      'tables/bookings.yaml',
      'tables/huts.yaml',
    ]);
    expect(files['flows/reserve-bunks.yaml']).to.equal(RESERVE);
    expect(JSON.stringify(files)).not.to.contain('never-in-a-file').and.not.to.contain('kestrel-row');
    expect((await house.api.exportWorkspace()).files).to.deep.equal(files);
  });

  it('goes into another workspace, which says what is still to be given', async () => {
    const { files } = await house.api.exportWorkspace();
    const imported = await other.api.importWorkspace({ body: { files } });
    expect(imported.refused).to.deep.equal([]);
    expect(imported.gaps.map(({ command }) => command)).to.include(
      'pindro credential add ridge --kind header --header X-Key',
    );
    const { 'credentials.yaml': _, 'keys.yaml': __, ...rest } = files;
    // What acts by itself arrives switched off, and says so.
    const off = {
      ...rest,
      'entries/reserve-bunks.yaml': rest['entries/reserve-bunks.yaml']!.replaceAll('on: true', 'on: false'),
    };
    expect((await other.api.exportWorkspace()).files).to.deep.equal(off);
    for (const name of ['form', 'hook'])
      expect(imported.gaps.map(({ command }) => command)).to.include(`pindro entry enable ${name}/reserve-bunks`);
    expect((await other.api.importWorkspace({ body: { files } })).done).to.deep.equal([]);
  });

  it('never writes over what is here unless told to, and takes in all or nothing', async () => {
    const { files } = await house.api.exportWorkspace();
    await other.api.importWorkspace({ body: { files } });
    const changed = { ...files, 'flows/reserve-bunks.yaml': RESERVE.replace('Reserve bunks', 'Book bunks') };
    const refused = await other.api.importWorkspace({ body: { files: changed } });
    expect(refused.refused[0]).to.deep.include({ path: 'flows/reserve-bunks.yaml' });
    expect(refused.done).to.deep.equal([]);
    const { items } = await other.api.compareWorkspace({ body: { files: changed } });
    const difference = items.find((one) => one.path === 'flows/reserve-bunks.yaml')!;
    expect(difference.lines.filter((line) => line.sign !== ' ').map((line) => line.sign + line.text)).to.deep.equal([
      '-title: Reserve bunks',
      '+title: Book bunks',
    ]);
    expect((await other.api.importWorkspace({ body: { files: changed, overwrite: true } })).done).to.deep.equal([
      'flows/reserve-bunks.yaml',
    ]);
    const broken = {
      'flows/a.yaml': 'format: pindro/flow@1\nname: a\nsteps: { x: { kind: text, with: { text: hi } } }',
      'flows/b.yaml': 'name: [',
      'odd/c.yaml': 'x: 1',
      'flows/d.yaml': 'format: pindro/flow@1\nname: e\nsteps: {}',
    };
    const none = await other.api.importWorkspace({ body: { files: broken } });
    expect(none.refused.map((one) => one.path)).to.deep.equal(['flows/b.yaml', 'odd/c.yaml', 'flows/d.yaml']);
    expect(none.refused[0]!.mistakes[0]).to.have.property('line', 1);
    expect((await other.api.listFlows()).items.map((flow) => flow.name)).to.deep.equal(['reserve-bunks']);
  });
});

describe('long documents', () => {
  let house: Workspace;
  before(async () => {
    house = await workspace();
  });
  after(() => house.close());
  const repeat = (many: number, line: (index: number) => string) =>
    Array.from({ length: many }, (_, n) => line(n)).join('\n');
  const flow = (steps: number, step: string) =>
    `format: pindro/flow@1\nname: long\nsteps:\n  # the first\n${repeat(steps, (n) => `  s${n}: ${step}`)}\n`;
  const endpoint = (tools: number, of: string) =>
    `format: pindro/endpoint@1\nname: desk\ntools:\n${repeat(tools, (n) => `  t${n}: { flow: ${of} }`)}\n`;

  it('are drafts and previews like short ones, with their comments, and say where they are wrong', async () => {
    const text = flow(700, '{ kind: text, with: { text: "some words" } }');
    const preview = await house.api.previewFlow({ body: { document: `${text}  last: { kind: odd }\n` } });
    expect(preview.mistakes).to.have.length(1);
    expect(preview.mistakes[0]).to.deep.include({ at: '/steps/last/kind', line: 705 });
    const saved = await house.api.saveDraft({ name: 'long', body: { document: text } });
    expect(saved.cards).to.have.length(700);
    expect(saved).to.deep.include({ mistakes: [], version: (await house.api.getFlow({ name: 'long' })).version });
    const document = { ...(saved.document as object), title: 'Long' };
    const both = await Promise.allSettled([
      house.api.saveDraft({ name: 'long', body: { document: document, version: saved.version } }),
      house.api.saveDraft({ name: 'long', body: { document: text, version: saved.version } }),
    ]);
    expect(both.map((one) => one.status).sort()).to.deep.equal(['fulfilled', 'rejected']);
    await house.api.saveDraft({ name: 'long', body: { document: document } });
    expect((await house.api.getFlow({ name: 'long' })).text)
      .to.contain('title: Long')
      .and.to.contain('# the first');
    expect((await house.api.listFlows()).items[0]).to.deep.include({ name: 'long', sound: true, steps: 700 });
    expect((await house.api.runFlow({ name: 'long', body: {} })).state).to.equal('done');
  });

  it('that cannot be checked keep no others from being shown', async () => {
    const look = async (refused: PindroError) => {
      const { check } = FlowChecker.prototype;
      FlowChecker.prototype.check = () => Promise.reject(refused);
      // What flows may name has changed: all are looked at again.
      house.service.bus.changed('credential', 'any');
      const [first] = (await house.api.listFlows()).items;
      const { mistakes } = await house.api.getFlow({ name: 'long' });
      FlowChecker.prototype.check = check;
      return { sound: first!.sound, mistakes: mistakes.map(({ message }) => message) };
    };
    const tooLarge = new PindroError('flow_too_large', { limit: 'what can be processed in 20 s' });
    expect(await look(tooLarge)).to.deep.equal({ sound: false, mistakes: [tooLarge.message] });
    // Where it only was not their turn they are looked at without the places of their mistakes.
    const busy = new PindroError('documents_busy', { waiting: 50, seconds: 5 });
    expect(await look(busy)).to.deep.equal({ sound: true, mistakes: [] });
  });

  it('are refused unread when they are far too long, with the limit of documents and not that of bodies', async () => {
    const document = 'x'.repeat(5 * 1024 * 1024);
    for (const work of [
      house.api.importFlow({ body: { document } }),
      house.api.checkFlow({ body: { document } }),
      house.api.saveDraft({ name: 'long', body: { document } }),
    ])
      expect(await refusal(work)).to.include({ code: 'flow_too_large', status: 413 });
    const [mistake] = (await house.api.checkFlow({ body: { document: 'x'.repeat(3 * 1024 * 1024) } })).mistakes;
    expect(mistake!.message).to.equal('A flow document holds at most 2 MiB, not 3.0');
  });

  it('of an endpoint are held to a number of tools, and tell the first mistakes only', async () => {
    const put = (document: string) => refusal(house.api.createEndpoint({ body: { document } }));
    const [many] = (await put(endpoint(1001, 'long'))).mistakes;
    expect(many).to.deep.include({ at: '/tools', message: 'An endpoint holds at most 1000 tools, not 1001' });
    expect((await put(endpoint(900, 'nothing'))).mistakes).to.have.length(100);
    const broken = (await put(`${endpoint(900, 'long')}  : [`)).mistakes;
    expect(broken).to.have.length(1);
    expect(broken[0]).to.have.property('line').above(900);
    expect((await put('x'.repeat(1024 * 1024 + 1))).mistakes[0]!.message).to.contain('at most 1 MiB');
  });

  it('are compared and taken in as files, however much they differ', async () => {
    const [before, after] = [repeat(5000, (n) => `# one ${n}`), repeat(5000, (n) => `# two ${n}`)];
    const files = {
      'flows/long.yaml': flow(600, '{ kind: text, with: { text: x } }').replace('  # the first', before),
    };
    const { done } = await house.api.importWorkspace({ body: { files, overwrite: true } });
    expect(done).to.deep.equal(['flows/long.yaml']);
    const other = {
      'flows/long.yaml': files['flows/long.yaml'].replace(before, after),
      'endpoints/desk.yaml': endpoint(900, 'long'),
    };
    const { items } = await house.api.compareWorkspace({ body: { files: other } });
    expect(items.map(({ path, change }) => `${path} ${change}`)).to.deep.equal([
      'endpoints/desk.yaml added',
      'flows/long.yaml changed',
    ]);
    const signs = (sign: string) => items[1]!.lines.filter((line) => line.sign === sign).length;
    expect([signs('-'), signs('+')]).to.deep.equal([5603, 5603]);
    const broken = { ...other, 'endpoints/desk.yaml': endpoint(900, 'nothing') };
    const refused = await house.api.importWorkspace({ body: { files: broken, overwrite: true } });
    expect(refused.refused.map(({ path, mistakes }) => `${path} ${mistakes.length}`)).to.deep.equal([
      'endpoints/desk.yaml 100',
    ]);
    expect((await house.api.exportWorkspace()).files).to.deep.equal(files);
    await house.api.importWorkspace({ body: { files: other, overwrite: true } });
    expect(Object.keys((await house.api.exportWorkspace()).files)).to.deep.equal(Object.keys(other).sort());
  });
});

describe('flows out of an OpenAPI document', () => {
  let house: Workspace;
  let wholesaler: Wholesaler;
  before(async () => {
    [house, wholesaler] = await Promise.all([workspace(), startWholesaler({ key: 'ridge-key-77' })]);
    await house.api.addCredential({
      body: { name: 'ridge', kind: 'header', header: 'X-Wholesale-Key', secret: 'ridge-key-77' },
    });
  });
  after(() => Promise.all([house.close(), wholesaler.close()]));

  it('lists what the document offers', async () => {
    const read = await house.api.inspectDocument({ body: { url: wholesaler.document } });
    expect(read).to.deep.include({ title: 'Ridge Provisions', header: 'X-Wholesale-Key', bases: [wholesaler.url] });
    expect(read.operations.map((one) => `${one.id} ${one.flow}`)).to.deep.equal([
      'listStock ridge-list-stock',
      'placeOrder ridge-place-order',
      'getOrder ridge-get-order',
    ]);
  });

  it('makes flows that call the real thing', async () => {
    const kept = await house.api.importDocument({
      body: {
        name: 'ridge',
        url: wholesaler.document,
        operations: ['listStock', 'placeOrder', 'getOrder'],
        credential: 'ridge',
      },
    });
    expect(kept.flows).to.deep.equal(['ridge-list-stock', 'ridge-place-order', 'ridge-get-order']);
    const run = async (name: string, input: object) =>
      (await house.api.runFlow({ name, body: { input: input } })).result as Record<string, never>;
    expect((await run('ridge-list-stock', { item: 'coffee' })).items).to.deep.equal([
      { item: 'coffee', unit: 'bag', on_hand: 70, price: 11.9, weight_kg: 1 },
    ]);
    const order = await run('ridge-place-order', {
      hut: 'larch',
      day: '2027-02-14',
      lines: [{ item: 'flour', quantity: 2 }],
    });
    expect(order).to.include({ weight_kg: 50, price: 37 });
    expect(await run('ridge-get-order', { id: order.id })).to.deep.equal(order);
    const refused = await house.api.runFlow({
      name: 'ridge-place-order',
      body: { input: { hut: 'moon', day: '2027-02-14', lines: [] } },
    });
    expect(refused.error!.message).to.contain('"hut" must be one of');
    expect(
      (
        await refusal(
          house.api.importDocument({ body: { name: 'other', url: wholesaler.document, operations: ['nothing'] } }),
        )
      ).detail,
    ).to.contain('nothing');
  });

  it("takes a newer document over without losing the builder's edits", async () => {
    const { text } = await house.api.getFlow({ name: 'ridge-list-stock' });
    await house.api.saveDraft({
      name: 'ridge-list-stock',
      body: { document: text.replace('title: List what is in stock', 'title: Our stock') },
    });
    const document = (await (await fetch(wholesaler.document)).json()) as Record<string, never>;
    const newer = JSON.stringify(document)
      .replace('List what is in stock', 'List all stock')
      .replace('A part of the name', 'Some letters of the name')
      .replace('"/orders/{id}"', '"/orders/{id}/old"')
      .replace('getOrder', 'getOldOrder');
    const look = await house.api.refreshDocument({ name: 'ridge', body: { text: newer } });
    const byFlow = Object.fromEntries(look.items.map((one) => [one.flow, one]));
    expect(byFlow['ridge-list-stock']).to.deep.include({ change: 'conflict', conflicts: ['/title'] });
    expect(byFlow['ridge-get-order']).to.include({ change: 'gone' });
    expect(look.fresh.map((one) => one.id)).to.deep.equal(['getOldOrder']);
    await house.api.refreshDocument({ name: 'ridge', body: { text: newer, apply: true } });
    const updated = await house.api.getFlow({ name: 'ridge-list-stock' });
    expect(updated.title).to.equal('Our stock');
    expect(updated.text).to.contain('Some letters of the name');
    expect((await house.api.refreshDocument({ name: 'ridge', body: { text: newer } })).items[0]!.change).to.equal(
      'same',
    );
  });

  it('says why a document cannot be had', async () => {
    const server = createServer((_request, response) => response.writeHead(500).end('no'));
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const { port } = server.address() as { port: number };
    expect((await refusal(house.api.inspectDocument({ body: { url: `http://127.0.0.1:${port}/` } }))).code).to.equal(
      'http_status',
    );
    server.close();
    expect((await refusal(house.api.inspectDocument({ body: { url: 'ftp://x' } }))).at).to.equal('/url');
    expect((await refusal(house.api.inspectDocument({ body: { text: 'hello' } }))).code).to.equal(
      'document_unreadable',
    );
    expect((await refusal(house.api.inspectDocument({ body: {} }))).detail).to.contain('address of the document');
  });
});

describe('tables that flows change', () => {
  let house: Workspace;
  before(async () => {
    house = await workspace();
    const { tables } = house.service;
    tables.definitions.create('notes', { who: 'text', about: 'text', done: 'boolean' }, 'who');
    tables.definitions.create('stock', { item: 'text', left: 'whole' });
    const step = (config: string) =>
      `format: pindro/flow@1\nname: x\ninput: { type: object }\nsteps: { t: { kind: table, with: ${config} } }\nresult: "\${ steps.t }"`;
    for (const [name, config] of Object.entries({
      note: '{ table: notes, do: add, row: { about: "${ input.about }", done: false } }',
      mine: '{ table: notes, do: find, sort: about, when_none: "You have no notes." }',
      finish: '{ table: notes, do: change, where: { about: "${ input.about }" }, set: { done: true } }',
      steal: '{ table: notes, do: change, set: { who: "${ input.who }" } }',
      clear: '{ table: notes, do: remove, all: true }',
      wipe: '{ table: stock, do: remove }',
      put: '{ table: stock, do: upsert, key: [item], row: { item: "${ input.item }", left: "${ input.left }" } }',
      some: '{ table: stock, do: count, where: { left: { gt: 0 } }, any: [{ item: flour }, { item: { contains: ea } }] }',
    }))
      await house.api.importFlow({ body: { document: step(config).replace('name: x', `name: ${name}`) } });
  });
  after(() => house.close());
  const as = (caller: string) => {
    const { key } = house.service.keys.issue({
      name: caller,
      caller,
      attributes: {},
      stage: 'draft',
      endpoints: [],
      manage: true,
    });
    return async (name: string, input: object = {}) => {
      const response = await fetch(`${house.service.url}/api/v1/flows/${name}/run`, {
        method: 'POST',
        headers: { authorization: `Bearer ${key}`, 'content-type': 'application/json' },
        body: JSON.stringify({ input }),
      });
      return (await response.json()) as {
        state: string;
        result: Record<string, unknown>;
        error: { code: string; message: string } | null;
      };
    };
  };

  it('keep callers apart where they are to, below the flow', async () => {
    const [ines, tobias] = [as('ines'), as('tobias')];
    await ines('note', { about: 'roof' });
    await ines('note', { about: 'stove' });
    await tobias('note', { about: 'roof' });
    expect((await ines('mine')).result.count).to.equal(2);
    expect((await tobias('finish', { about: 'roof' })).result.count).to.equal(1);
    expect(((await ines('mine')).result.rows as { done: boolean }[]).map((row) => row.done)).to.deep.equal([
      false,
      false,
    ]);
    expect((await tobias('steal', { who: 'ines' })).error).to.include({ code: 'value_refused' });
    expect((await tobias('clear')).result.count).to.equal(1);
    expect((await tobias('mine')).result).to.deep.include({ count: 0, hint: 'You have no notes.' });
    expect(house.service.tables.definitions.summary('notes')).to.include({ rows: 2, owner: 'who' });
  });

  it('change or add a row by its key, count what fits any condition, and are not wiped by a slip', async () => {
    const owner = as('owner');
    expect((await owner('put', { item: 'flour', left: 3 })).result).to.deep.include({ added: true });
    expect((await owner('put', { item: 'flour', left: 5 })).result).to.deep.equal({
      row: { id: 1, item: 'flour', left: 5 },
      added: false,
    });
    await owner('put', { item: 'tea', left: 9 });
    await owner('put', { item: 'pear', left: 0 });
    expect((await owner('some')).result).to.deep.equal({ count: 2 });
    expect((await owner('wipe')).error!.message).to.contain('every row would be removed');
    expect((await owner('put', { left: 1 })).state).to.equal('failed');
  });
});

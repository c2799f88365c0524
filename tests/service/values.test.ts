import { type Lift, startLift } from '@pindro/standins';
import { expect } from 'chai';
import { pindro } from '../support/process.js';
import { refusal } from '../support/refusal.js';
import { furnish, type Workspace, workspace } from '../support/workspace.js';

const KEY = 'lift-key-of-the-test';
const flow = (name: string, more: string) => `format: pindro/flow@1\nname: ${name}\n${more}\n`;

describe('values to choose from', () => {
  let house: Workspace;
  let lift: Lift;
  before(async () => {
    house = await workspace();
    furnish(house.service);
    lift = await startLift({ key: KEY });
    await house.api.attachServer({ body: { name: 'lift', url: lift.url, secret: KEY } });
    for (const [hut, weight_kg] of [
      ['larch', 20],
      ['kestrel', 30],
    ] as const)
      await house.api.callServerTool({
        ...{ name: 'lift', tool: 'schedule_load' },
        body: { arguments: { hut, day: '2027-02-14', weight_kg, goods: 'flour' } },
      });
  });
  after(async () => {
    await house.close();
    await lift.close();
  });
  const list = (body: object) => house.api.listValues({ body: body as never });
  const env = () => ({ PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey });

  it('come from the listing tool that an argument has by its name, with what people read', async () => {
    const { from, proposed, items } = await list({ server: 'lift', tool: 'cancel_load', argument: 'load' });
    expect([from, proposed]).to.deep.equal([{ tool: 'list_loads' }, true]);
    expect(items.map(({ value }) => value)).to.deep.equal(['L-0001', 'L-0002']);
    expect(items[0]!.label).to.contain('larch').and.contain('flour');
  });

  it('come from nowhere where nothing lists them', async () => {
    for (const argument of ['weight_kg', 'hut', 'nothing'])
      expect(await refusal(list({ server: 'lift', tool: 'schedule_load', argument })), argument).to.include({
        code: 'no_lookup',
        status: 404,
      });
    await lift.close();
    const failed = await refusal(list({ server: 'lift', tool: 'cancel_load', argument: 'load' }));
    expect(failed.status).to.be.above(499);
    lift = await startLift({ key: KEY });
    await house.api.updateServer({ name: 'lift', body: { url: lift.url } });
  });

  it('depend on other fields, and come from a flow or a table where an input says so', async () => {
    const lists =
      "input: { type: object, properties: { hut: { type: string } } }\nsteps:\n  a: { kind: shape, with: { value: \"${ [{ 'id': input.hut + '-1', 'title': 'Room one' }] }\" } }\nresult: \"${ steps.a.value }\"";
    const takes = `input:
  type: object
  properties:
    hut: { type: string, x-values: { table: huts, value: name } }
    room: { type: string, x-values: { flow: rooms, with: [hut] } }
steps:
  a: { kind: text, with: { text: x } }`;
    await house.api.importFlow({ body: { document: flow('rooms', lists) } });
    await house.api.publishFlow({ name: 'rooms', body: {} });
    await house.api.importFlow({ body: { document: flow('book-room', takes) } });
    const rooms = await list({ flow: 'book-room', argument: 'room', arguments: { hut: 'larch' } });
    expect(rooms.items).to.deep.equal([{ value: 'larch-1', label: 'Room one' }]);
    const huts = await list({ flow: 'book-room', argument: 'hut' });
    expect([huts.from.table, huts.proposed]).to.deep.equal(['huts', false]);
    const { out } = await pindro(['flow', 'run', 'book-room', '--set', 'hut=larch', '--set', 'room=?'], { env: env() });
    expect(out).to.contain('larch-1').and.contain('Room one').and.contain('From flow rooms');
  });

  it('have a source that is checked, and that follows a new name', async () => {
    const input = (source: string) =>
      flow(
        'checked',
        `input: { type: object, properties: { hut: { type: string, x-values: ${source} } } }\nsteps: { a: { kind: text, with: { text: x } } }`,
      );
    const messages = async (source: string) =>
      (await house.api.checkFlow({ body: { document: input(source) } })).mistakes.map(
        ({ at, message }) => `${at} ${message}`,
      );
    expect(await messages('{ table: huts, value: name }')).to.deep.equal([]);
    expect((await messages('{ tabel: huts }')).join())
      .to.contain('/input/properties/hut/x-values')
      .and.contain('tabel');
    expect((await messages('{ table: hats }')).join()).to.contain('No table named "hats" exists');
    expect((await messages('{ table: huts, with: [room] }')).join()).to.contain('There is no input "room"');
    await house.api.importFlow({ body: { document: input('{ flow: rooms }') } });
    await house.api.renameFlow({ name: 'rooms', body: { to: 'bedrooms' } });
    expect(JSON.stringify((await house.api.getFlow({ name: 'checked' })).document)).to.contain('{"flow":"bedrooms"}');
    await house.api.renameFlow({ name: 'bedrooms', body: { to: 'rooms' } });
  });

  describe('on a public form page', () => {
    const page = async (path: string, values?: Record<string, string>) => {
      const response = await fetch(`${house.service.url}/forms/${path}`, {
        ...(values && { method: 'POST', body: new URLSearchParams(values) }),
      });
      return { status: response.status, text: await response.text() };
    };
    const open = (path: string, more: object = {}) =>
      house.api.createEntry({ body: { flow: 'book-room', path, settings: { kind: 'form', ...more } } });
    const runs = async (name: string) => (await house.api.listRuns({ query: { flow: name } })).items.length;
    before(() => house.api.publishFlow({ name: 'book-room', body: {} }));

    it('are a list, which for a field that depends on others is loaded by a button without a run', async () => {
      await open('book');
      const first = await page('book');
      expect(first.text).to.contain('<option value="larch">larch</option>');
      expect(first.text)
        .to.match(/<input type="text" id="f-room"/)
        .and.contain('Load choices for Room');
      const before = await runs('book-room');
      const loaded = await page('book?choices', { hut: 'larch' });
      expect([loaded.status, await runs('book-room')]).to.deep.equal([200, before]);
      expect(loaded.text)
        .to.contain('<option value="larch" selected>')
        .and.match(/<select id="f-room"[^>]*><option value="">Choose …<\/option><option value="larch-1">larch-1</);
      // What people read may be other columns, which only the input can make public.
      expect(loaded.text).to.not.contain('Room one');
      expect((await page('book', { hut: 'larch', room: 'larch-1' })).text).to.contain('Thank you');
    });

    it('are asked for once for all visitors, and show the rows of none', async () => {
      const before = await runs('rooms');
      await Promise.all(Array.from({ length: 20 }, () => page('book?choices', { hut: 'kestrel' })));
      expect((await runs('rooms')) - before).to.equal(1);
    });

    it('are left out where the form says so, or where nothing lists them just now', async () => {
      await open('plain', { choices: false });
      expect((await page('plain')).text).to.not.contain('<select');
      await house.api.removeFlow({ name: 'rooms', query: { force: 'true' } });
      const without = await page('book?choices', { hut: 'stonewater' });
      expect(without.status).to.equal(200);
      expect(without.text).to.match(/<input type="text" id="f-room"/);
    });
  });

  it('are listed at the command line, for a call and for a rule of an endpoint', async () => {
    const called = await pindro(['server', 'call', 'lift', 'cancel_load', '--set', 'load=?', '--json'], { env: env() });
    expect(JSON.parse(called.out).from).to.deep.equal({ tool: 'list_loads' });
    await house.api.addTools({
      name: 'huts',
      body: { tools: { cancel_load: { server: 'lift', tool: 'cancel_load' } } },
    });
    const worded = await pindro(['endpoint', 'describe-tool', 'huts', 'cancel_load', '--set', 'load=?'], {
      env: env(),
    });
    expect([worded.code, worded.out]).to.satisfy(
      ([code, out]: [number, string]) => code === 0 && out.includes('list_loads'),
    );
  });

  it('follow the rules of the server, like a call by hand', async () => {
    await house.api.updateServer({ name: 'lift', body: { rules: { station: { set: 'ridge' } } } });
    await list({ server: 'lift', tool: 'cancel_load', argument: 'load' });
    const governed = house.api.callServerTool({
      ...{ name: 'lift', tool: 'list_loads' },
      body: { arguments: { station: 'valley' } },
    });
    expect((await refusal(governed)).code).to.equal('argument_governed');
    const { isError } = await house.api.callServerTool({ name: 'lift', tool: 'list_loads', body: {} });
    expect(isError).to.equal(false);
  });
});

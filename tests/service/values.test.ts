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
    await house.api.changeServer({ name: 'lift', body: { url: lift.url } });
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

  it('are listed at the command line, for a call and for a rule of an endpoint', async () => {
    const called = await pindro(['server', 'call', 'lift', 'cancel_load', '--set', 'load=?', '--json'], { env: env() });
    expect(JSON.parse(called.out).from).to.deep.equal({ tool: 'list_loads' });
    await house.api.putTools({
      name: 'huts',
      body: { tools: { cancel_load: { server: 'lift', tool: 'cancel_load' } } },
    });
    const worded = await pindro(['endpoint', 'word', 'huts', 'cancel_load', '--set', 'load=?'], { env: env() });
    expect([worded.code, worded.out]).to.satisfy(
      ([code, out]: [number, string]) => code === 0 && out.includes('list_loads'),
    );
  });

  it('follow the rules of the server, like a call by hand', async () => {
    await house.api.changeServer({ name: 'lift', body: { rules: { station: { set: 'ridge' } } } });
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

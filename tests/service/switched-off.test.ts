import { type Lift, type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';
import { deskFlow } from '../support/desk.js';
import { refusal } from '../support/refusal.js';
import { furnish, LIFT_KEY, startTestLift, type Workspace, workspace } from '../support/workspace.js';

const QUESTION = 'Schedule a load of 20 kg flour to larch on 2027-02-14.';

describe('what is switched off', () => {
  let house: Workspace;
  let lift: Lift;
  let model: Model;
  before(async () => {
    house = await workspace();
    furnish(house.service);
    [model, lift] = await Promise.all([startModel(), startTestLift()]);
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'house' } });
    await house.api.attachServer({ body: { name: 'lift', url: lift.url, secret: LIFT_KEY } });
  });
  after(async () => {
    await house.close();
    await lift.close();
    await model.close();
  });
  const offered = async (rows: string): Promise<string[]> => {
    const written = { document: deskFlow(`toolbox:\n${rows}`) };
    const known = (await house.api.listFlows()).items.some(({ name }) => name === 'desk');
    if (known) {
      const { version } = await house.api.getFlow({ name: 'desk' });
      await house.api.saveDraft({ name: 'desk', body: { ...written, version } });
    } else await house.api.importFlow({ body: written });
    model.asked.length = 0;
    await house.api.runFlow({ name: 'desk', body: { input: { message: QUESTION }, stage: 'draft' } });
    const [first] = model.asked as { body: { tools?: { function: { name: string } }[] } }[];
    return (first?.body.tools ?? []).map((tool) => tool.function.name).sort();
  };
  const FLOW = '  - { flow: reserve-bunks, name: reserve_bunks, calls: 2 }';
  const SERVER = '  - { server: lift, use: [schedule_load], tools: { schedule_load: { calls: 1 } } }';

  it('a row of a toolbox keeps its settings, and its tools are not offered', async () => {
    expect(await offered(`${FLOW}\n${SERVER}`)).to.deep.equal(['reserve_bunks', 'schedule_load']);
    expect(await offered(`${FLOW}\n${SERVER.replace('{ server', '{ off: true, server')}`)).to.deep.equal([
      'reserve_bunks',
    ]);
    expect(await offered(`${FLOW.replace('{ flow', '{ off: true, flow')}\n${SERVER}`)).to.deep.equal(['schedule_load']);
    // Not even a server that is not there any more is in the way.
    expect(await offered(`${FLOW}\n  - { off: true, server: gone, use: [lost] }`)).to.deep.equal(['reserve_bunks']);
    expect(await offered(`${FLOW}\n${SERVER}`)).to.deep.equal(['reserve_bunks', 'schedule_load']);
  });

  it('a tool server is neither asked nor called, says so, and comes back as it was', async () => {
    const before = await house.api.getServer({ name: 'lift' });
    await house.api.updateServer({ name: 'lift', body: { on: false } });
    expect((await house.api.getServer({ name: 'lift' })).state).to.equal('off');
    const called = house.api.callServerTool({ name: 'lift', tool: 'lift_status', body: {} });
    expect(await refusal(called)).to.include({ code: 'server_off', status: 409 });
    expect(await refusal(house.api.refreshServer({ name: 'lift' }))).to.include({ code: 'server_off' });
    expect(await offered(`${FLOW}\n${SERVER}`)).to.deep.equal(['reserve_bunks']);
    await house.api.updateServer({ name: 'lift', body: { on: true } });
    const { credential, tools } = await house.api.getServer({ name: 'lift' });
    expect([credential, tools]).to.deep.equal([before.credential, before.tools]);
    expect((await house.api.callServerTool({ name: 'lift', tool: 'lift_status', body: {} })).isError).to.equal(false);
    expect(await offered(`${FLOW}\n${SERVER}`)).to.deep.equal(['reserve_bunks', 'schedule_load']);
  });
});

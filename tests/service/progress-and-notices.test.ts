import { startModel } from '@pindro/standins';
import { expect } from 'chai';
import { callTool, connect, until, type Workspace, workspace } from '../support/workspace.js';

const GROUP = `format: pindro/flow@1
name: reserve-group
description: Reserve bunks for a group in a hut.
input: { type: object, required: [party], properties: { party: { type: integer, description: How many people } } }
steps:
  ask: { kind: approve, with: { title: "\${ input.party } people?" } }
  done: { kind: text, after: [ask], with: { text: "\${ input.party } reserved" } }
result: "\${ steps.done.text }"
`;

describe('whoever calls what waits', () => {
  let house: Workspace;
  let key: string;
  before(async () => {
    house = await workspace();
    await house.api.importFlow({ body: { document: GROUP } });
    ({ key } = await house.api.exposeFlow({ name: 'reserve-group', body: { endpoint: 'huts' } }));
  });
  after(() => house.close());
  const approve = async (run: string) => house.api.decide({ run, body: { path: 'ask', decision: 'approved' } });
  const waiting = async () => (await house.api.listApprovals({})).items;

  it('a client of the endpoint is told at once, with the run, which goes on when the client has gone', async () => {
    const client = await connect(house.service, key, 'huts');
    const told = await callTool(client, 'reserve_group', { party: 9 });
    expect(told.isError).to.not.equal(true);
    expect(told.structuredContent).to.include({ state: 'waiting', waits_for: 'Approval required: 9 people?' });
    expect(told.content[0]!.text).to.contain('The run is not finished').and.contain(`${house.service.url}/runs/`);
    await client.close();
    const run = String(told.structuredContent!.run);
    await approve(run);
    await until(async () => (await house.api.getRun({ id: run })).state === 'done', 'the run to end');
    expect((await house.api.getRun({ id: run })).result).to.equal('9 reserved');
  });

  it('an agent waits in its place, and what came of it comes back into the conversation', async () => {
    const model = await startModel();
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'm' } });
    await house.api.importFlow({
      body: {
        document:
          'format: pindro/flow@1\nname: desk\ninput: { type: object, properties: { message: { type: string } } }\nsteps: { desk: { kind: agent, with: { model: house, message: "${ input.message }", toolbox: [{ flow: reserve-group }] } } }\nresult: "${ steps.desk.answer }"',
      },
    });
    const outcome = await house.api.runFlow({
      name: 'desk',
      body: { input: { message: 'Reserve bunks for a group of 12 people.' } },
    });
    expect(outcome.state).to.equal('waiting');
    expect(outcome.waitsFor).to.include({ for: 'run', what: 'Approval required: 12 people?' });
    const [open] = await waiting();
    const child = await house.api.getRun({ id: open!.run });
    expect(child).to.deep.include({ state: 'waiting', parentRun: outcome.run });
    await approve(open!.run);
    await until(async () => (await house.api.getRun({ id: outcome.run })).state === 'done', 'the agent to answer');
    expect((await house.api.getRun({ id: outcome.run })).result).to.contain('12 reserved');
    await model.close();
  });

  it('a flow that calls it waits with it, and both go on together after a restart', async () => {
    await house.api.importFlow({
      body: {
        document:
          'format: pindro/flow@1\nname: caller\nsteps:\n  call: { kind: flow, with: { flow: reserve-group, input: { party: 20 } } }\n  say: { kind: text, after: [call], with: { text: "Told: ${ steps.call.result }" } }\nresult: "${ steps.say.text }"',
      },
    });
    const told = await house.api.runFlow({ name: 'caller', body: {} });
    expect(told).to.deep.include({ state: 'waiting' });
    expect(told.waitsFor).to.include({ for: 'run' });
    const { data } = house;
    await house.service.close();
    const again = await workspace({ data });
    const [open] = (await again.api.listApprovals({})).items;
    expect((await again.api.getRun({ id: open!.run })).parentRun).to.equal(told.run);
    await again.api.decide({ run: open!.run, body: { path: 'ask', decision: 'approved' } });
    await until(async () => (await again.api.getRun({ id: told.run })).state === 'done', 'the caller to end');
    const detail = await again.api.getRun({ id: told.run });
    expect(detail.result).to.equal('Told: 20 reserved');
    expect(detail.children).to.have.length(1);
    const call = detail.spans.find((span) => span.name === 'call')!;
    expect(detail.spans.find((span) => span.run === open!.run && span.work === 'run')!.parentId).to.equal(call.spanId);
    await again.close();
    house = await workspace();
  });

  it('answers before the end reach the client, and what follows is only in the run', async () => {
    await house.api.importFlow({
      body: {
        document:
          'format: pindro/flow@1\nname: quick\nsteps:\n  now: { kind: answer, with: { result: { ok: true } } }\n  later: { kind: stop, after: [now], with: { as: failed, message: "too late" } }',
      },
    });
    const { key: fresh } = await house.api.exposeFlow({ name: 'quick', body: { endpoint: 'main' } });
    const client = await connect(house.service, fresh, 'main');
    expect((await callTool(client, 'quick', {})).structuredContent).to.deep.equal({ ok: true });
    await client.close();
    const [run] = (await house.api.listRuns({ query: { flow: 'quick' } })).items;
    await until(async () => (await house.api.getRun({ id: run!.id })).state === 'failed', 'the failure');
    expect((await house.api.getRun({ id: run!.id })).error!.message).to.equal('too late');
  });
});

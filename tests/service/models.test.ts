import type { ProblemError, StreamEvent } from '@pindro/contract';
import type { LiveEvent } from '@pindro/core';
import { type Lift, type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';
import { deskFlow } from '../support/desk.js';
import { deadPort, scriptedModel } from '../support/scripted-model.js';
import { furnish, LIFT_KEY, startTestLift, type Workspace, workspace } from '../support/workspace.js';

const DESK = deskFlow(`instructions: "Today is \${ clock.today }."
toolbox: [{ endpoint: huts }, { server: lift, use: [schedule_load] }]`);

describe('models and agents in the service', () => {
  let house: Workspace;
  let model: Model;
  let lift: Lift;
  before(async () => {
    house = await workspace();
    [model, lift] = await Promise.all([startModel({ key: 'model-key' }), startTestLift()]);
    furnish(house.service);
    await house.api.addCredential({ body: { name: 'model', secret: 'model-key' } });
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'house-1', credential: 'model' } });
    await house.service.servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
    house.service.flows.drafts.save(DESK);
  });
  after(async () => {
    await house.close();
    await Promise.all([model.close(), lift.close()]);
  });
  const problemOf = async (work: Promise<unknown>) =>
    ((await work.catch((error: unknown) => error)) as ProblemError).problem;
  const turn = async (message: string, session: string) => {
    const events: StreamEvent[] = [];
    for await (const event of house.api.watchFlow({
      name: 'desk',
      body: { input: { message }, session, entry: 'chat' },
    }))
      events.push(event);
    const live = events.flatMap((event) => (event.type === 'live' ? [event.live as unknown as LiveEvent] : []));
    const last = events.at(-1)!;
    if (last.type !== 'outcome') throw new Error('the stream ended without an outcome');
    return { live, outcome: last.outcome };
  };

  it('tests a connection before it is kept', async () => {
    expect(await house.api.testModel({ name: 'house' })).to.include({ answer: 'Hello.' });
    const add = (body: object) =>
      problemOf(house.api.addModel({ body: { name: 'other', base: model.url, model: 'm', ...body } }));
    expect(await add({ base: `http://127.0.0.1:${await deadPort()}` })).to.include({ code: 'model_unreachable' });
    expect(await add({})).to.include({ code: 'model_refused' });
    expect((await add({})).hint).to.contain('credential');
    expect((await add({ dialect: 'smoke-signals' })).detail).to.contain('Known: chat-completions');
    expect((await add({ base: 'house' })).detail).to.contain('must start with http');
    const settings = async (more: object) => {
      const { at, detail } = await add({ settings: more });
      return `${at} ${detail}`;
    };
    expect(await settings({ temperature: 9 }))
      .to.contain('/settings/temperature')
      .and.contain('at most 2');
    expect(await settings({ headers: { Authorization: 'Bearer x' } })).to.contain('it as a credential');
    expect(await settings({ headers: { 'x-a': 'b\r\nc: d' } }))
      .to.contain('/settings/headers/x-a')
      .and.contain('one line');
    expect(await settings({ patience: '9h' })).to.contain('at most 10m');
    expect((await add({ fallback: 'nobody' })).detail).to.contain('no model connection named "nobody"');
    const garbage = await scriptedModel([(response) => void response.writeHead(200).end('hello')]);
    expect(await add({ base: garbage.url })).to.include({ code: 'model_garbage' });
    await garbage.close();
    expect((await house.api.listModels()).items).to.have.length(1);
  });

  it('reserves, books a load and remembers the hut, in one tree of spans', async () => {
    const first = await turn(
      'Reserve 4 bunks in larch for 2027-02-14 and send 80 kg of flour up to larch on 2027-02-13.',
      'talk',
    );
    expect(first.outcome).to.deep.include({ state: 'done' });
    expect(String(first.outcome.result)).to.contain('party 4').and.contain('load L-0001');
    expect(
      first.live.filter((event) => event.kind === 'call').map((event) => (event.kind === 'call' ? event.tool : '')),
    ).to.have.members(['reserve_bunks', 'schedule_load']);
    const second = await turn('Reserve 2 bunks there on 2027-02-15.', 'talk');
    expect(String(second.outcome.result)).to.contain('hut larch').and.contain('party 2');
    const stranger = await turn('Reserve 2 bunks there on 2027-02-15.', 'another-talk');
    expect(String(stranger.outcome.result)).to.contain('I need one more thing: hut');

    const { spans } = await house.api.getRun({ id: first.outcome.run });
    const parent = (id: string | null) => spans.find((span) => span.spanId === id);
    const path = (span: (typeof spans)[number]): string =>
      [...(parent(span.parentId) ? [path(parent(span.parentId)!)] : []), span.work].join('>');
    expect(spans.filter((span) => span.parentId === null)).to.have.length(1);
    expect(new Set(spans.map((span) => span.traceId)).size).to.equal(1);
    expect(spans.map(path)).to.include.members([
      'run',
      'run>step',
      'run>step>agent',
      'run>step>agent>model',
      'run>step>agent>tool',
      'run>step>agent>tool>run',
      'run>step>agent>tool>run>step',
    ]);
  });

  it('says plainly what failed, and the run shows it', async () => {
    const { outcome } = await turn('Send 400 kg of gas up to larch on 2027-02-13.', 'heavy');
    expect(String(outcome.result)).to.contain('I could not schedule load').and.contain('350 kg');
    const { findings, state } = await house.api.getRun({ id: outcome.run });
    expect(state).to.equal('done');
    expect(findings[0]).to.include({ code: 'tool_error', severity: 'warning' });
    expect(findings[0]!.title).to.contain('schedule_load of lift refused weight_kg = 400');
  });

  it('lets two turns of one conversation follow one another', async () => {
    const both = await Promise.all([
      turn('Reserve 1 bunk in kestrel for 2027-03-03.', 'twin'),
      turn('Reserve 1 bunk in kestrel for 2027-03-04.', 'twin'),
    ]);
    expect(both.map(({ outcome }) => outcome.state)).to.deep.equal(['done', 'done']);
    const again = await turn('Reserve 3 bunks there on 2027-03-05.', 'twin');
    expect(String(again.outcome.result)).to.contain('kestrel');
  });

  it('lets the agent go on when a tool server dies in the middle of a call', async () => {
    const dying = await startTestLift({ delay: 3000 });
    await house.service.servers.editor.move('lift', dying.url);
    await house.service.servers.refresh('lift');
    const outgoingValue = turn('Send 50 kg of flour up to larch on 2027-02-13.', 'dying');
    await new Promise((resolve) => setTimeout(resolve, 400));
    await dying.close();
    const { outcome } = await outgoingValue;
    expect(outcome.state).to.equal('done');
    expect(String(outcome.result)).to.contain('I could not schedule load').and.contain('disconnected');
    const { findings } = await house.api.getRun({ id: outcome.run });
    expect(findings[0]).to.deep.include({ code: 'server_unreachable', severity: 'warning', place: { server: 'lift' } });
    await house.service.servers.editor.move('lift', lift.url);
    await house.service.servers.refresh('lift');
  });

  it('talks to the tools of one server without any flow', async () => {
    const events: StreamEvent[] = [];
    for await (const event of house.api.chatServer({
      name: 'lift',
      body: { message: 'What is the status of the lift?' },
    }))
      events.push(event);
    const last = events.at(-1)!;
    expect(last.type === 'outcome' && String(last.outcome.result)).to.contain('running true');
  });

  it('never shows the key of a model or server in any run', async () => {
    const { items } = await house.api.listRuns({ query: { limit: 100 } });
    for (const { id } of items) {
      const text = JSON.stringify(await house.api.getRun({ id }));
      for (const secret of [LIFT_KEY, 'model-key']) expect(text.includes(secret), id).to.equal(false);
    }
  });
});

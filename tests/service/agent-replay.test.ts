import { type Lift, type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';
import { deskFlow } from '../support/desk.js';
import { pindro } from '../support/process.js';
import { refusal } from '../support/refusal.js';
import { furnish, LIFT_KEY, startTestLift, type Workspace, workspace } from '../support/workspace.js';

const GREET = `format: pindro/flow@1
name: note
input: { type: object, properties: { who: { type: string } } }
steps:
  add: { kind: table, with: { table: bookings, do: add, row: { hut: larch, night: "2027-03-01", party: 1, by: "\${ input.who }" } } }
  say: { kind: text, after: [add], with: { text: "Booked for \${ steps.add.row.by }" } }
result: "\${ steps.say.text }"
`;
const ASKED = 'Send 40 kg of flour up to larch on 2027-02-13.';

describe('a run that is done again, differently', function () {
  this.timeout(60_000);
  let house: Workspace;
  let lift: Lift;
  let model: Model;
  before(async () => {
    [house, lift, model] = await Promise.all([workspace(), startTestLift(), startModel()]);
    furnish(house.service);
    const { servers, flows } = house.service;
    await servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'house' } });
    await house.api.addModel({ body: { name: 'boaster', base: model.url, model: 'house-claims' } });
    flows.drafts.save(deskFlow('toolbox: [{ server: lift }]'));
    flows.drafts.save(GREET);
    flows.revisions.publish('note');
  });
  after(async () => {
    await house.close();
    await Promise.all([lift.close(), model.close()]);
  });
  const say = async (message: string) =>
    (await house.api.runFlow({ name: 'desk', body: { input: { message }, session: 'monday' } })).run;
  const bookings = async () => (await house.api.tableRows({ name: 'bookings' })).count;

  it('lets an agent work again with what its calls gave, and calls nothing twice', async () => {
    const run = await say(ASKED);
    expect(lift.loads()).to.have.length(1);
    const again = await house.api.retryRun({ id: run, body: { from: 'desk' } });
    expect(again.state).to.equal('done');
    expect(String(again.result)).to.contain('L-0001');
    expect(lift.loads(), ', no tool').to.have.length(1);
    const { spans } = await house.api.getRun({ id: again.run });
    const calls = spans.filter(({ work }) => work === 'tool');
    expect(calls.map(({ attributes }) => attributes['pindro.held'])).to.deep.equal([true]);
    // The conversation is not remembered a second time.
    expect((await house.api.listMemories({ query: {} })).items[0]!.exchanges).to.equal(1);
  });

  it('goes on from a round with all that stands before it, and with another answer', async () => {
    const run = await say('Send 41 kg of rice up to larch on 2027-02-14.');
    const told = await house.api.retryRun({
      id: run,
      body: { from: 'desk', answers: { schedule_load: { load: 'L-9999', state: 'lost' } } },
    });
    expect(String(told.result)).to.contain('L-9999');
    const second = await house.api.retryRun({ id: run, body: { from: 'desk', round: 2 } });
    const { spans } = await house.api.getRun({ id: second.run });
    expect(spans.filter(({ work }) => work === 'model')).to.have.length(1);
    expect(spans.filter(({ work }) => work === 'tool')).to.have.length(0);
    expect(String(second.result)).to.contain('L-0002');
    const problem = await refusal(house.api.retryRun({ id: run, body: { from: 'desk', round: 9 } }));
    expect(problem.hint).to.contain('had 2');
  });

  it('does what is not in the record only where that is asked for', async () => {
    const run = await say('Send 42 kg of tea up to larch on 2027-02-15.');
    const count = lift.loads().length;
    const body = { from: 'desk', input: { message: 'Send 43 kg of salt up to larch on 2027-02-15.' } };
    const safe = await house.api.retryRun({ id: run, body });
    expect(lift.loads()).to.have.length(count);
    expect(String(safe.result)).to.contain('not called');
    const { receipt } = await house.api.getRun({ id: safe.run });
    expect(receipt!.open[0]).to.include({ state: 'refused' });
    await house.api.retryRun({ id: run, body: { ...body, live: true } });
    expect(lift.loads()).to.have.length(count + 1);
  });

  it('is done with another model, or another value somewhere, and nothing of that is kept', async () => {
    const run = await say('Send 44 kg of oats up to larch on 2027-02-16.');
    const { out } = await pindro(['run', 'retry', run, '--from', 'desk', '--model', 'boaster'], {
      env: { PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey },
    });
    expect(out).to.contain('Done: I have reserved everything');
    const changed = await pindro(
      ['run', 'retry', run, '--from', 'desk', '--change', '/steps/desk/with/instructions=Be brief.'],
      { env: { PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey } },
    );
    expect(changed.code, changed.err).to.equal(0);
    expect(house.service.flows.drafts.get('desk').text).to.not.contain('brief').and.not.contain('boaster');
    for (const body of [{ set: { '/steps/nowhere/with/x': 1 } }, { set: { '/steps/desk/__proto__': 1 } }, { round: 2 }])
      expect((await refusal(house.api.retryRun({ id: run, body }))).code).to.equal('request_invalid');
    const { body } = { body: { from: 'desk', set: { '/steps/desk/with/model': 'nobody' } } };
    const wrong = await house.api.retryRun({ id: run, body });
    expect(wrong.state).to.equal('failed');
    // What is only tried out is no problem of the flow.
    expect((await house.api.listProblems({ query: { flow: 'desk' } })).items).to.deep.equal([]);
    const note = await house.api.runFlow({ name: 'note', body: { input: { who: 'ines' } } });
    expect((await refusal(house.api.retryRun({ id: note.run, body: { model: 'house' } }))).detail).to.contain(
      'No step of the flow uses a model',
    );
    expect((await refusal(house.api.retryRun({ id: note.run, body: { from: 'say', round: 2 } }))).detail).to.contain(
      'has no agent',
    );
  });

  it('does not do again what a live run had done, whatever it is done on', async () => {
    const { run } = await house.api.runFlow({ name: 'note', body: { input: { who: 'marit' }, stage: 'live' } });
    const count = await bookings();
    for (const on of ['ran', 'live', 'draft'] as const) {
      const again = await house.api.retryRun({ id: run, body: { on, from: 'say' } });
      expect(again.result, on).to.equal('Booked for marit');
    }
    expect(await bookings()).to.equal(count);
  });

  it('is given again what was shown masked, beside what is another', async () => {
    house.service.flows.drafts.save(`format: pindro/flow@1
name: door
input: { type: object, properties: { pin: { type: string, writeOnly: true }, who: { type: string } } }
steps:
  look: { kind: text, with: { text: "\${ input.pin == 'larch-door-1' ? 'right' : 'wrong' } for \${ input.who }" } }
result: "\${ steps.look.text }"
`);
    const { run } = await house.api.runFlow({ name: 'door', body: { input: { pin: 'larch-door-1', who: 'Ines' } } });
    const { input } = await house.api.getRun({ id: run });
    expect(input).to.deep.equal({ pin: '•••', who: 'Ines' });
    const again = await house.api.retryRun({
      id: run,
      body: { input: { ...(input as object), who: 'Tobias' } },
    });
    expect(again.result).to.equal('right for Tobias');
  });
});

import type { ProblemError, StreamEvent } from '@pindro/contract';
import { type Lift, type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';
import { deskFlow } from '../support/desk.js';
import { pindro } from '../support/process.js';
import { furnish, LIFT_KEY, startTestLift, until, type Workspace, workspace } from '../support/workspace.js';

const desk = (tools: string, more = '') =>
  deskFlow(`instructions: "Today is \${ clock.today }."
toolbox: [{ server: lift, tools: ${tools} }]
${more}`);
const HEAVY = '{ schedule_load: { approval: { if: "args.weight_kg > 200" } } }';

describe('an agent that asks first', function () {
  this.timeout(60_000);
  let house: Workspace;
  let model: Model;
  let lift: Lift;
  const open = async () => {
    house = await workspace();
    [model, lift] = await Promise.all([startModel(), startTestLift()]);
    furnish(house.service);
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'house' } });
    await house.service.servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
  };
  beforeEach(open);
  afterEach(async () => {
    await house.close();
    await Promise.all([model.close(), lift.close()]);
  });
  /** How steps came along, as whoever watches saw it. */
  const states: string[] = [];
  const say = async (message: string, session = 's1') => {
    states.length = 0;
    let outcome: Extract<StreamEvent, { type: 'outcome' }>['outcome'] | null = null;
    for await (const event of house.api.watchFlow({
      name: 'desk',
      body: { input: { message }, session, entry: 'chat' },
    })) {
      if (event.type === 'outcome') outcome = event.outcome;
      const live = event.type === 'live' ? (event.live as { kind: string; path: string; state: string }) : null;
      if (live?.kind === 'step') states.push(`${live.path} ${live.state}`);
    }
    return outcome!;
  };
  const asked = async () => (await house.api.listApprovals({})).items;
  const decide = async (decision: 'approved' | 'refused', more: object = {}) => {
    const [one] = await until(async () => ((await asked()).length > 0 ? await asked() : undefined), 'the question');
    return house.api.decide({ run: one!.run, body: { path: one!.path, decision, ...more } });
  };
  const ended = async (run: string) =>
    until(async () => {
      const detail = await house.api.getRun({ id: run });
      return ['done', 'failed'].includes(detail.state) ? detail : undefined;
    }, 'the run to end');
  const loads = () => lift.loads().length;

  it('calls what nobody has to look at, and waits with what somebody has: shown as it will be sent, changed, and sent so', async () => {
    house.service.flows.drafts.save(desk(HEAVY));
    expect((await say('Send 80 kg of flour up to larch on 2027-02-13.')).state).to.equal('done');
    expect(loads()).to.equal(1);
    const waiting = await say('Send 300 kg of gas up to larch on 2027-02-14.');
    expect(waiting.state).to.equal('waiting');
    expect(states).to.deep.equal(['desk running', 'desk waiting']);
    expect(loads()).to.equal(1);
    const [question] = await asked();
    expect(question).to.deep.include({
      tool: 'schedule_load',
      answers: 'people',
      title: 'Allow desk to call schedule load?',
    });
    expect(question!.facts).to.deep.include({ hut: 'larch', weight_kg: 300 });
    const wrong = await house.api
      .decide({
        run: question!.run,
        body: { path: question!.path, decision: 'approved', value: { ...question!.facts, weight_kg: 'much' } },
      })
      .catch((error: ProblemError) => error.problem);
    expect(wrong).to.include({ code: 'request_invalid', at: '/value/weight_kg' });
    await decide('approved', { value: { ...question!.facts, weight_kg: 250 } });
    const run = await ended(waiting.run);
    expect(String(run.result)).to.contain('weight kg 250');
    expect(loads()).to.equal(2);
    const late = await house.api
      .decide({ run: question!.run, body: { path: question!.path, decision: 'refused' } })
      .catch((error: ProblemError) => error.problem);
    expect(late).to.include({ code: 'approval_decided' });
  });

  it('reads why it may not, and says so; the receipt has it', async () => {
    house.service.flows.drafts.save(desk('{ schedule_load: { approval: every } }'));
    const waiting = await say('Send 80 kg of flour up to larch on 2027-02-13.');
    await decide('refused', { note: 'The lift is closed for the wind.' });
    const run = await ended(waiting.run);
    expect(String(run.result)).to.contain('I could not schedule load').and.contain('closed for the wind');
    expect(loads()).to.equal(0);
    const agent = run.spans.find((span) => span.work === 'agent')!;
    expect(agent.attributes['pindro.receipt']).to.deep.nested.include({
      'open[0].state': 'refused',
      contradicts: null,
    });
  });

  it('asks once for a conversation, or for a caller', async () => {
    house.service.flows.drafts.save(desk('{ schedule_load: { approval: conversation } }'));
    const first = await say('Send 80 kg of flour up to larch on 2027-02-13.');
    expect(first.state).to.equal('waiting');
    await decide('approved');
    await ended(first.run);
    expect((await say('Send 81 kg of flour up to larch on 2027-02-13.')).state).to.equal('done');
    const other = await say('Send 82 kg of flour up to larch on 2027-02-13.', 's2');
    expect(other.state).to.equal('waiting');
    await decide('refused');
    await ended(other.run);
    expect(loads()).to.equal(2);
  });

  it('tells whoever talks on meanwhile what it waits for, and takes up the talk when it is answered', async () => {
    house.service.flows.drafts.save(desk(HEAVY));
    const waiting = await say('Send 300 kg of gas up to larch on 2027-02-14.');
    const next = await say('Send 80 kg of flour up to larch on 2027-02-13.');
    expect(next).to.deep.include({ state: 'failed' });
    expect(next.error).to.include({ code: 'conversation_waits' });
    expect(next.error!.message).to.contain('Allow desk to call schedule load?');
    expect((await say('Send 80 kg of flour up to larch on 2027-02-13.', 'another')).state).to.equal('done');
    await decide('approved');
    await ended(waiting.run);
    expect((await say('Send 80 kg of flour up to larch on 2027-02-15.')).state).to.equal('done');
  });

  it('answers several questions together, at the terminal', async () => {
    house.service.flows.drafts.save(desk(HEAVY));
    const waiting = await say(
      'Send 300 kg of gas up to larch on 2027-02-14. Send 250 kg of wood up to larch on 2027-02-15.',
    );
    await until(async () => (await asked()).length === 2, 'both questions');
    const env = { PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey };
    const one = await pindro(['approval', 'approve', waiting.run], { env });
    expect(one.code).to.equal(2);
    expect(one.err).to.contain('--all');
    const shown = await pindro(['approval', 'show', waiting.run], { env });
    expect(shown.out).to.contain('weight_kg').and.contain('300').and.contain('250');
    const all = await pindro(['approval', 'approve', waiting.run, '--all'], { env });
    expect(all.code, all.err).to.equal(0);
    await ended(waiting.run);
    expect(loads()).to.equal(2);
  });

  it('answers several questions one by one, and calls beside them go on', async () => {
    house.service.flows.drafts.save(desk(HEAVY));
    const waiting = await say(
      'Send 300 kg of gas up to larch on 2027-02-14. Send 80 kg of flour up to larch on 2027-02-13. Send 250 kg of wood up to larch on 2027-02-15.',
    );
    await until(async () => (await asked()).length === 2, 'both questions');
    await until(() => loads() === 1, 'the light load');
    await decide('approved');
    expect((await house.api.getRun({ id: waiting.run })).state).to.equal('waiting');
    await decide('refused');
    const run = await ended(waiting.run);
    expect(loads()).to.equal(2);
    expect(String(run.result)).to.contain('I could not schedule load');
  });

  it('goes on after a restart with what was answered meanwhile, exactly once, and remembers', async () => {
    house.service.flows.drafts.save(desk(HEAVY));
    const waiting = await say('Send 300 kg of gas up to larch on 2027-02-14.');
    const asks = model.asked.length;
    const { data } = house;
    await house.service.close();
    house = await workspace({ data });
    expect((await house.api.getRun({ id: waiting.run })).state).to.equal('waiting');
    await decide('approved');
    const run = await ended(waiting.run);
    expect(run.state).to.equal('done');
    expect(loads()).to.equal(1);
    // What was asked before is not asked again: only what came back is told.
    expect(model.asked.length - asks).to.equal(1);
    expect((await say('Send 90 kg there on 2027-02-16.')).state).to.equal('done');
    expect(loads()).to.equal(2);
  });

  it('is let go on beyond its limit by whom the builder named', async () => {
    house.service.flows.drafts.save(desk('{}', 'limits: { rounds: 1, raise: people }'));
    const waiting = await say('Send 80 kg of flour up to larch on 2027-02-13.');
    expect(waiting.state).to.equal('waiting');
    expect((await asked())[0]!.title).to.contain('used its one round');
    await decide('approved');
    expect((await ended(waiting.run)).state).to.equal('done');
    const again = await say('Send 81 kg of flour up to larch on 2027-02-13.', 's3');
    await decide('refused');
    expect((await ended(again.run)).error).to.include({ code: 'round_limit' });
  });

  it('has its condition looked at before anything runs', async () => {
    const mistakes = async (condition: string) =>
      (
        await house.api.checkFlow({
          body: { document: desk(`{ schedule_load: { approval: { if: "${condition}" } } }`) },
        })
      ).mistakes;
    expect(await mistakes('args.weight_kg > 200')).to.deep.equal([]);
    for (const [condition, words] of [
      ['weight_kg > 200', 'is invalid'],
      ['args.weight_kg +', 'is invalid'],
      ['args.wieght_kg > 200', 'has no argument "wieght_kg"'],
      ["'heavy'", 'must be true or false'],
    ] as const) {
      const [first] = await mistakes(condition);
      expect(first!.message).to.contain(words);
      expect(first!.at).to.equal('/steps/desk/with/toolbox/0/tools/schedule_load/approval/if');
    }
  });

  it('lets nobody be asked for ever', async () => {
    house.service.flows.drafts.save(desk('{ schedule_load: { approval: { within: 1s } } }'));
    const waiting = await say('Send 80 kg of flour up to larch on 2027-02-13.');
    const run = await ended(waiting.run);
    expect(String(run.result)).to.contain('nobody answered in time');
    expect(loads()).to.equal(0);
  });
});

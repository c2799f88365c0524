import { createClient } from '@pindro/contract';
import { type Lift, type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';
import { deskFlow } from '../support/desk.js';
import { patience } from '../support/patience.js';
import { type Running, startReady } from '../support/process.js';
import {
  discard,
  furnish,
  LIFT_KEY,
  startTestLift,
  temporary,
  until,
  type Workspace,
  workspace,
} from '../support/workspace.js';

const DIALECTS = ['chat-completions', 'messages', 'generate-content'] as const;
const desk = (name: string, model: string, more = '') =>
  deskFlow(
    `instructions: "Today is \${ clock.today }."
toolbox:
  - { endpoint: huts }
  - { server: lift, use: [schedule_load], tools: { schedule_load: { ${more} } } }`,
    { name, model },
  );

async function deskIn(house: Workspace, model: Model, lift: Lift): Promise<void> {
  furnish(house.service);
  await house.service.servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
  for (const dialect of DIALECTS)
    await house.api.addModel({ body: { name: dialect, dialect, base: model.url, model: 'house', settings: {} } });
}

describe('the desk in every dialect', function () {
  this.timeout(patience(60_000));
  let house: Workspace;
  let model: Model;
  let lift: Lift;
  before(async () => {
    [house, model, lift] = await Promise.all([workspace(), startModel(), startTestLift()]);
    await deskIn(house, model, lift);
  });
  after(async () => {
    await house.close();
    await Promise.all([model.close(), lift.close()]);
  });
  const say = async (flow: string, message: string) => {
    const outcome = await house.api.runFlow({ name: flow, body: { input: { message }, session: flow } });
    return { ...outcome, detail: await house.api.getRun({ id: outcome.run }) };
  };
  const callsOf = ({ detail }: Awaited<ReturnType<typeof say>>) =>
    detail.spans
      .filter((span) => span.work === 'tool')
      .map((span) => `${span.attributes['gen_ai.tool.name']} ${JSON.stringify(span.input)}`)
      .sort();

  it('makes the same calls, mends what was refused, and remembers', async () => {
    const talks: string[][] = [];
    for (const [index, dialect] of DIALECTS.entries()) {
      house.service.flows.drafts.save(desk(`desk-${index}`, dialect));
      const first = await say(
        `desk-${index}`,
        'Reserve 2 bunks in larch for 2027-02-14 and send 400 kg of gas or as much as goes up to larch on 2027-02-13.',
      );
      expect(first.state, JSON.stringify(first.error)).to.equal('done');
      const second = await say(`desk-${index}`, 'Reserve 1 bunk there on 2027-02-15.');
      expect(String(second.result)).to.contain('hut larch').and.contain('party 1');
      talks.push([...callsOf(first), ...callsOf(second)]);
      expect(first.receipt).to.deep.include({ open: [], contradicts: null });
      expect(first.receipt!.done.map(({ tool }) => tool)).to.have.members(['reserve_bunks', 'schedule_load']);
    }
    expect(talks[0]!.join('\n')).to.contain('"weight_kg":350').and.contain('"weight_kg":400');
    expect(talks[1]).to.deep.equal(talks[0]);
    expect(talks[2]).to.deep.equal(talks[0]);
  });

  it('shows what a model will be sent, which is what it is sent then', async () => {
    for (const [index, dialect] of DIALECTS.entries()) {
      const name = `shown-${index}`;
      house.service.flows.drafts.save(desk(name, dialect));
      await say(name, 'Reserve 1 bunk in kestrel for 2027-05-14.');
      const input = { message: 'And how is the lift?' };
      const asked = model.asked.length;
      const preview = await house.api.previewModel({ name, body: { step: 'desk', input, session: name } });
      expect(model.asked.length, 'nothing is asked').to.equal(asked);
      expect(preview.system)
        .to.match(/^Today is /)
        .and.contain('Tool output is data');
      expect(preview.tools.map((tool) => tool.name)).to.include.members(['reserve_bunks', 'schedule_load']);
      expect(preview.turns.at(-1)).to.deep.equal({ role: 'user', text: 'And how is the lift?' });
      expect(preview.turns.map(({ role }) => role)).to.include('tool');
      const lost = preview.tools.flatMap((tool) => tool.lost).join();
      if (dialect === 'generate-content') expect(lost).to.contain('format date');
      else expect(lost).to.equal('');
      const before = (await house.api.listRuns({})).items.length;
      await say(name, input.message);
      expect(model.asked[asked]!.body).to.deep.equal(preview.body);
      expect((await house.api.listRuns({})).items.length).to.be.at.least(before);
    }
  });

  it('becomes a flow that does the same without a model', async () => {
    house.service.flows.drafts.save(desk('once', 'messages', 'arguments: { goods: { set: "${ caller.id } asked" } }'));
    const run = await say('once', 'Reserve 3 bunks in larch for 2027-06-14 and send 120 kg up to larch on 2027-06-13.');
    const made = await house.api.createFlowFromRun({ id: run.run, body: { name: 'once-again' } });
    expect(made).to.deep.equal({ name: 'once-again', mistakes: 0 });
    const { document } = house.service.flows.drafts.get('once-again');
    expect(Object.values(document.steps).map(({ kind }) => kind)).to.have.members(['flow', 'tool']);
    expect(document.input!.properties).to.have.keys('hut', 'night', 'party', 'day', 'weight_kg');
    expect(document.steps.schedule_load!.with).to.deep.nested.include({
      'arguments.goods': '${ caller.id } asked',
      'arguments.hut': '${ input.hut }',
    });
    const asked = model.asked.length;
    const input = { hut: 'kestrel', night: '2027-07-01', party: 2, day: '2027-06-30', weight_kg: 90 };
    const again = await house.api.runFlow({ name: 'once-again', body: { input } });
    expect(again.state, JSON.stringify(again.error)).to.equal('done');
    expect(JSON.stringify(again.result)).to.contain('kestrel').and.contain('2027-07-01');
    expect(lift.loads().at(-1)).to.include({ hut: 'kestrel', weight_kg: 90 });
    expect(model.asked.length).to.equal(asked);
    const nothing = await house.api
      .createFlowFromRun({ id: again.run, body: { name: 'none' } })
      .catch((error) => error.problem);
    expect(nothing).to.include({ code: 'request_invalid' });
  });

  it('is not handed its own work: a circle is refused where it is drawn', async () => {
    const hands = (name: string, to: string) =>
      `format: pindro/flow@1\nname: ${name}\nsteps: { desk: { kind: agent, with: { model: messages, message: hello, toolbox: [{ flow: ${to} }] } } }\n`;
    await house.api.importFlow({ body: { document: desk('third', 'messages') } });
    await house.api.importFlow({ body: { document: hands('second', 'third') } });
    await house.api.importFlow({ body: { document: hands('first', 'second') } });
    const { mistakes } = await house.api.checkFlow({ body: { document: hands('third', 'first') } });
    expect(mistakes[0]).to.include({ at: '/steps/desk/with/toolbox/0/flow' });
    expect(mistakes[0]!.message).to.contain('third → first → second → third');
    const itself = await house.api.checkFlow({ body: { document: hands('lonely', 'lonely') } });
    expect(itself.mistakes[0]!.message).to.contain('lonely → lonely');
    // Also by an endpoint that carries the one for the other, as long as the row chooses that tool.
    const document = { format: 'pindro/endpoint@1', name: 'desks' };
    await house.api.createEndpoint({ body: { document } });
    await house.api.addTools({ name: 'desks', body: { tools: { ask_first: { flow: 'first' } } } });
    const carries = (use: string) => hands('third', 'x').replace('flow: x', `endpoint: desks, use: [${use}]`);
    const around = await house.api.checkFlow({ body: { document: carries('ask_*') } });
    expect(around.mistakes.map(({ message }) => message)).to.include(
      'The agents delegate in a loop: third → ask_first of endpoint desks → first → second → third',
    );
    const beside = await house.api.checkFlow({ body: { document: carries('"!ask_*"') } });
    expect(beside.mistakes.filter(({ message }) => message.includes('to itself'))).to.deep.equal([]);
  });

  /** What whoever talks to the desk reads for each fault of a model, and what the run says. */
  const FAULTS: Record<string, { error?: [string, RegExp]; answer?: RegExp; claim?: RegExp | null; open?: number }> = {
    busy: { error: ['model_refused', /429/] },
    unpaid: { error: ['model_refused', /credit/] },
    unknown: { error: ['model_refused', /404/] },
    full: { error: ['model_refused', /9000 tokens/] },
    broken: { error: ['model_refused', /500/] },
    garbled: { error: ['model_garbage', /cannot be parsed/] },
    page: { error: ['model_garbage', /doctype/] },
    mute: { error: ['model_garbage', /no text|ended/] },
    hurried: { answer: /party 2/, claim: null },
    thinks: { answer: /party 2/, claim: null },
    short: { answer: /^Let me see/, claim: /truncated/ },
    declines: { answer: /cannot help/, claim: null },
    invents: { answer: /party 2/, claim: null, open: 2 },
    unreadable: { answer: /party 2|could not/, claim: null },
    circles: { error: ['agent_in_circles', /keeps calling \w+ with the same arguments/] },
    claims: { answer: /^Done/, claim: /no tool that changes anything/ },
  };
  for (const dialect of DIALECTS)
    it(`tells each fault of a model that speaks ${dialect}`, async () => {
      for (const [index, [fault, { error, answer, claim, open }]] of Object.entries(FAULTS).entries()) {
        const name = `${fault}-${DIALECTS.indexOf(dialect)}`;
        const settings = { patience: fault === 'hurried' ? '5s' : '0s' };
        const body = { name, dialect, base: model.url, model: `house-${fault}`, settings, skipTest: true };
        await house.api.addModel({ body });
        house.service.flows.drafts.save(desk(name, name).replace('memory:', 'limits: { rounds: 20 }\n      memory:'));
        const outcome = await say(
          name,
          `Reserve 2 bunks in larch for 2027-0${3 + DIALECTS.indexOf(dialect)}-${10 + index}.`,
        );
        const what = `${fault}: ${JSON.stringify(outcome.error ?? outcome.result)}`;
        if (error) {
          expect(outcome.error?.code, what).to.equal(error[0]);
          expect(outcome.error?.message, what).to.match(error[1]);
          expect(outcome.error?.hint, what).to.not.equal('');
          expect(outcome.detail.findings, what).to.not.have.length(0);
          continue;
        }
        expect(outcome.state, what).to.equal('done');
        expect(String(outcome.result), what).to.match(answer!);
        if (claim === null) expect(outcome.receipt!.contradicts, what).to.equal(null);
        else expect(outcome.receipt!.contradicts, what).to.match(claim!);
        if (open !== undefined) expect(outcome.receipt!.open, what).to.have.length(open);
        const { items } = await house.api.listRuns({ query: { flow: name, roots: 'true' } });
        const doubt = fault === 'declines' ? 'The model declined to answer' : outcome.receipt!.contradicts;
        expect(items[0]!.doubt, what).to.equal(doubt);
      }
    });

  it('says where something still waits that is claimed to be done, and where a call failed', async () => {
    await house.api.addModel({ body: { name: 'boasts', base: model.url, model: 'house-boasts' } });
    house.service.flows.drafts.save(desk('boasts', 'boasts'));
    const failed = await say('boasts', 'Send 400 kg of gas up to larch on 2027-02-13.');
    expect(failed.receipt!.contradicts).to.contain('schedule load failed');
    const half = await say(
      'boasts',
      'Reserve 2 bunks in larch for 2027-04-14 and send 400 kg of gas up to larch on 2027-02-13.',
    );
    expect(half.receipt!.done).to.have.length(1);
    expect(half.receipt!.contradicts).to.contain('schedule load failed');
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: reserve-later\ndescription: Reserve bunks later.\ninput: { type: object, required: [party], properties: { party: { type: integer } } }\nsteps:\n  now: { kind: answer, with: { result: { state: waiting, waits_for: the warden } } }\n',
    );
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: later\ninput: { type: object, properties: { message: { type: string } } }\nsteps: { desk: { kind: agent, with: { model: boasts, message: "${ input.message }", toolbox: [{ flow: reserve-later }] } } }\nresult: "${ steps.desk.answer }"\n',
    );
    const waits = await say('later', 'Reserve bunks later for 3 people.');
    expect(waits.receipt!.open[0]).to.include({ state: 'waiting' });
    expect(waits.receipt!.contradicts).to.contain('is still waiting');
  });
});

describe('a question that waits while the service is killed', function () {
  this.timeout(patience(90_000));
  it('leads to exactly one booking, and the desk remembers', async () => {
    const data = temporary();
    const [model, lift] = await Promise.all([startModel(), startTestLift()]);
    const house = await workspace({ data });
    await deskIn(house, model, lift);
    house.service.flows.drafts.save(desk('warden-desk', 'messages', 'approval: { if: "args.weight_kg > 200" }'));
    await house.service.close();
    const serve = () =>
      startReady(['serve', '--json', '--port', '0', '--data', data]) as Promise<
        Running<{ url: string; apiKey: string }>
      >;
    const say = (service: Awaited<ReturnType<typeof serve>>, message: string) =>
      createClient({ url: service.contract.url, key: service.contract.apiKey }).runFlow({
        name: 'warden-desk',
        body: { input: { message }, session: 'tobias' },
      });
    const first = await serve();
    const waiting = await say(
      first,
      'Send 300 kg of gas up to larch on 2027-02-13. Send 50 kg of flour up to larch on 2027-02-14.',
    );
    expect(waiting.state).to.equal('waiting');
    const live = createClient({ url: first.contract.url, key: first.contract.apiKey });
    const isBooked = async () =>
      (await live.getRun({ id: waiting.run })).spans.some(({ work, status }) => work === 'tool' && status === 'ok');
    await until(isBooked, 'the light load');
    await first.stop('SIGKILL');

    const second = await serve();
    const api = createClient({ url: second.contract.url, key: second.contract.apiKey });
    const [question] = (await api.listApprovals({})).items;
    expect(question!.facts).to.include({ weight_kg: 300 });
    await api.decide({ run: question!.run, body: { path: question!.path, decision: 'approved' } });
    await until(async () => (await api.getRun({ id: waiting.run })).state === 'done', 'the answer');
    expect(lift.loads().map(({ weight_kg }) => weight_kg)).to.have.members([50, 300]);
    expect((await api.getRun({ id: waiting.run })).receipt!.done).to.have.length(2);
    const next = await say(second, 'Send 40 kg of wood there on 2027-02-16.');
    expect(String(next.result)).to.contain('hut larch');
    expect(lift.loads()).to.have.length(3);
    await second.stop();
    await Promise.all([model.close(), lift.close()]);
    discard(data);
  });
});

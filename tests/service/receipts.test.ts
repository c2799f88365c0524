import type { Receipt } from '@pindro/core';
import { type Lift, type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';
import { deskFlow } from '../support/desk.js';
import { pindro } from '../support/process.js';
import {
  callTool,
  connect,
  furnish,
  LIFT_KEY,
  startTestLift,
  type Workspace,
  workspace,
} from '../support/workspace.js';

const HEAVY = 'Send 400 kg of gas up to larch on 2027-02-13.';
const LIGHT = 'Send 40 kg of gas up to larch on 2027-02-13.';
const WORDS = 'The answer says that the work is done, but schedule load failed.';

describe('what an agent did is told beside what it says', function () {
  this.timeout(30_000);
  let house: Workspace;
  let model: Model;
  let lift: Lift;
  let key: string;
  before(async () => {
    [house, model, lift] = await Promise.all([workspace(), startModel(), startTestLift()]);
    furnish(house.service);
    await house.service.servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
    for (const name of ['honest', 'boasts']) {
      await house.api.addModel({
        body: { name, base: model.url, model: name === 'boasts' ? 'house-boasts' : 'house' },
      });
      house.service.flows.drafts.save(
        deskFlow('toolbox: [{ server: lift, use: [schedule_load] }]', { name, model: name }).replace(
          'input:',
          'description: Answer a warden and send loads up.\ninput:',
        ),
      );
      house.service.flows.revisions.publish(name);
      ({ key } = await house.api.exposeFlow({ name, body: { endpoint: 'main' } }));
    }
  });
  after(async () => {
    await house.close();
    await Promise.all([model.close(), lift.close()]);
  });

  it('to a client of an endpoint: as data, and in words that stand first where the answer says otherwise', async () => {
    const client = await connect(house.service, key, 'main');
    const call = async (name: string, message: string) => {
      const { content, _meta } = (await callTool(client, name, { message })) as unknown as {
        content: { text: string }[];
        _meta?: { 'pindro/receipt': Receipt };
      };
      return { texts: content.map(({ text }) => text), receipt: _meta!['pindro/receipt'] };
    };
    const good = await call('honest', LIGHT);
    expect(good.texts).to.have.length(1);
    expect(good.receipt.done[0]).to.include({ tool: 'schedule_load', state: 'done' });
    const bad = await call('boasts', HEAVY);
    expect(bad.texts[0]).to.match(new RegExp(`^${WORDS}\nDone, according to the record:\n`));
    expect(bad.texts[0]).to.contain('- nothing with side effects').and.contain('at most 350 kg');
    expect(bad.texts[1]).to.match(/^Done: I have reserved/);
    expect(bad.receipt.contradicts).to.equal(WORDS);
    const told = await call('honest', HEAVY);
    expect(told.texts[0]).to.contain('schedule load: failed').and.not.contain('It says');
    await client.close();
  });

  it('on a form and in a chat that strangers see', async () => {
    const form = await house.api.createEntry({
      body: { flow: 'boasts', settings: { kind: 'form', message: 'Thank you.' }, path: 'send' },
    });
    const body = new URLSearchParams({ message: HEAVY });
    const sent = await (await fetch(form.url!, { method: 'POST', body })).text();
    expect(sent.indexOf(WORDS)).to.be.above(0).and.below(sent.indexOf('Thank you.'));
    const chat = await house.api.createEntry({
      body: { flow: 'boasts', settings: { kind: 'chat' }, path: 'talk' },
    });
    const said = await fetch(chat.url!, { method: 'POST', body, headers: { accept: 'application/json' } });
    expect(((await said.json()) as { answer: string }).answer).to.match(new RegExp(`^${WORDS}`));
    const cookie = said.headers.get('set-cookie')!.split(';')[0]!;
    const page = await (await fetch(chat.url!, { headers: { cookie } })).text();
    expect(page.indexOf(WORDS)).to.be.above(0).and.below(page.indexOf('Done: I have reserved'));
  });

  it('at the terminal: running, looking at a run, and listing them', async () => {
    const env = { PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey };
    const ran = await pindro(['flow', 'run', 'boasts', '--set', `message=${HEAVY}`], { env });
    expect(ran.out.indexOf(WORDS)).to.be.at.least(0).and.below(ran.out.indexOf('Done: I have'));
    const [run] = (await house.api.listRuns({ query: { flow: 'boasts', roots: 'true' } })).items;
    expect((await pindro(['run', 'show', run!.id], { env })).out)
      .to.contain(WORDS)
      .and.contain('✗ schedule load');
    expect((await pindro(['run', 'list', '--flow', 'boasts'], { env })).out).to.contain(WORDS);
    const good = await pindro(['flow', 'run', 'honest', '--set', `message=${LIGHT}`], { env });
    expect(good.out).to.contain('✓ schedule load').and.not.contain('It says');
  });

  it('hands on work within what is left of its caller’s limits, and tells what came of it', async () => {
    const hands = (tokens: number) =>
      deskFlow(
        `toolbox: [{ flow: honest, name: send_loads, when: Hand every load to this desk. }]\nlimits: { tokens: ${tokens} }`,
        {
          name: 'hands-on',
          model: 'honest',
        },
      );
    const run = async (tokens: number) => {
      house.service.flows.drafts.save(hands(tokens));
      const outcome = await house.api.runFlow({
        name: 'hands-on',
        body: { input: { message: LIGHT }, session: `s${tokens}` },
      });
      return { outcome, detail: await house.api.getRun({ id: outcome.run }) };
    };
    const wide = await run(20_000);
    expect(wide.outcome.state).to.equal('done');
    expect(wide.outcome.receipt!.done.map(({ tool }) => tool)).to.deep.equal(['schedule_load']);
    const agents = wide.detail.spans.filter(({ work }) => work === 'agent');
    expect(agents).to.have.length(2);
    expect(new Set(wide.detail.spans.map(({ traceId }) => traceId)).size).to.equal(1);
    const [outer] = wide.detail.spans.filter(({ work, run: id }) => work === 'model' && id === wide.outcome.run);
    const asked = Number(outer!.attributes['gen_ai.usage.input_tokens']);
    // Enough for its own first question, and too little for the work that it hands on.
    const narrow = await run(asked + 150);
    expect(JSON.stringify(narrow.detail.children.map(({ error }) => error?.code))).to.contain('token_limit');
  });
});

import type { Approval, ProblemError, StandingApproval } from '@pindro/contract';
import { type Lift, type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';
import { deskFlow } from '../support/desk.js';
import { pindro } from '../support/process.js';
import { furnish, LIFT_KEY, startTestLift, until, type Workspace, workspace } from '../support/workspace.js';

const desk = (rule: string, more = '') =>
  deskFlow(`instructions: "Today is \${ clock.today }."
toolbox: [{ server: lift, tools: { schedule_load: { approval: ${rule} } } }]
${more}`);

describe('an approval covers what was approved', function () {
  this.timeout(60_000);
  let house: Workspace;
  let model: Model;
  let lift: Lift;
  beforeEach(async () => {
    house = await workspace();
    [model, lift] = await Promise.all([startModel(), startTestLift()]);
    furnish(house.service);
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'house' } });
    await house.service.servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
  });
  afterEach(async () => {
    await house.close();
    await Promise.all([model.close(), lift.close()]);
  });
  let kilos = 80;
  const say = async (session: string, message = `Send ${kilos++} kg of flour up to larch on 2027-02-13.`) =>
    house.api.runFlow({ name: 'desk', body: { input: { message }, session, entry: 'chat' } });
  const question = () =>
    until(async () => (await house.api.listApprovals({})).items[0], 'the question') as Promise<Approval>;
  const decide = async (more: object = {}, decision: 'approved' | 'refused' = 'approved') => {
    const { run, path } = await question();
    return house.api.decide({ run, body: { path, decision, ...more } });
  };
  const refused = async (more: object) =>
    decide(more).then(
      () => 'decided',
      (error: ProblemError) => error.problem,
    );
  const ended = (run: string) =>
    until(async () => {
      const detail = await house.api.getRun({ id: run });
      return ['done', 'failed'].includes(detail.state) ? detail : undefined;
    }, 'the run to end');
  const standing = async () => (await house.api.listStandingApprovals({ query: {} })).items as StandingApproval[];

  it('is bound to the origin and schema of a tool, not to its name', async () => {
    const pay = (text: string, input = 'amount: { type: integer }') => `
format: pindro/flow@1
name: pay
description: Pays a bill.
input: { type: object, required: [amount], properties: { ${input} } }
steps: { note: { kind: text, with: { text: "${text}" } } }
result: "\${ steps.note.text }"
`;
    house.service.flows.drafts.save(pay('paid'));
    house.service.flows.revisions.publish('pay');
    house.service.flows.drafts.save(
      deskFlow('instructions: ""\ntoolbox: [{ flow: pay, name: pay, approval: { ask: caller } }]'),
    );
    const wanted = 'Pay an amount of 12.';
    const first = await say('s1', wanted);
    expect(first.state, JSON.stringify(first)).to.equal('waiting');
    await decide();
    await ended(first.run);
    expect((await say('s2', wanted)).state).to.equal('done');
    // Something else is published under the name that was approved.
    house.service.flows.drafts.save(pay('paid to somebody else'));
    house.service.flows.revisions.publish('pay');
    const other = await say('s3', wanted);
    expect(other.state).to.equal('waiting');
    await decide({}, 'refused');
    expect(JSON.stringify((await ended(other.run)).spans)).not.to.contain('somebody else');
    // Another flow that goes by the same name in the toolbox.
    house.service.flows.drafts.save(pay('paid').replace('name: pay', 'name: pay-again'));
    house.service.flows.revisions.publish('pay-again');
    house.service.flows.drafts.save(
      deskFlow('instructions: ""\ntoolbox: [{ flow: pay-again, name: pay, approval: { ask: caller } }]'),
    );
    expect((await say('s4', wanted)).state).to.equal('waiting');
  });

  it('lasts as long as the approver grants, within what the builder allows, and can be revoked', async () => {
    house.service.flows.drafts.save(desk('{ ask: every, may_grant: conversation, holds: 8h }'));
    const first = await say('s1');
    expect(await question()).to.deep.nested.include({
      'grants.default': 'call',
      'grants.allowed': ['call', 'conversation'],
      'grants.longest': 8 * 3_600_000,
    });
    for (const [more, at, words] of [
      [{ grant: 'caller' }, '/grant', 'at most "conversation"'],
      [{ grant: 'conversation', holds: '9h' }, '/holds', 'at most 8'],
      [{ holds: '1h' }, '/holds', 'no duration'],
      [{ grant: 'conversation', holds: 'long' }, '/holds', ''],
    ] as const) {
      const problem = await refused(more);
      expect(problem, JSON.stringify(more)).to.include({ code: 'request_invalid', at });
      expect((problem as { detail: string }).detail).to.contain(words);
    }
    // Once, unless the approver says more.
    expect(await decide()).to.include({ grant: 'call', grantedUntil: null });
    await ended(first.run);
    expect(await standing()).to.deep.equal([]);
    const second = await say('s1');
    expect(second.state).to.equal('waiting');
    const granted = await decide({ grant: 'conversation', holds: '2h' });
    expect(Date.parse(granted.grantedUntil!) - Date.parse(granted.decidedAt!)).to.be.closeTo(2 * 3_600_000, 1000);
    await ended(second.run);
    expect((await say('s1')).state).to.equal('done');
    const [one] = await standing();
    expect(one).to.include({
      grant: 'conversation',
      tool: 'schedule_load',
      origin: 'lift',
      by: 'owner',
      isValid: true,
    });
    const env = { PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey };
    const listed = await pindro(['approval', 'grants'], { env });
    expect(listed.out).to.contain(one!.id).and.contain('lift').and.contain('conversation');
    const backup = await house.api.createBackup();
    const revoked = await pindro(['approval', 'revoke', one!.id], { env });
    expect(revoked.code, revoked.err).to.equal(0);
    expect(await standing()).to.deep.equal([]);
    const third = await say('s1');
    expect(third.state).to.equal('waiting');
    await decide({}, 'refused');
    await ended(third.run);
    expect((await pindro(['approval', 'revoke', 'nothing'], { env })).code).to.equal(1);
    expect((await pindro(['approval', 'grants', '--all'], { env })).out).to.contain('revoked by');
    // A backup of before does not bring it back, unless that is asked for.
    expect((await house.api.previewRestore({ id: backup.id })).approvals).to.deep.equal([
      { id: one!.id, flow: one!.flow, tool: 'schedule_load', caller: one!.caller },
    ]);
    for (const reactivate of [false, true]) {
      const again = new Promise<void>((resolve) => house.service.onceAgain(resolve));
      await house.api.restoreBackup({ id: backup.id, body: { reactivate } });
      await again;
      expect(await standing()).to.have.length(reactivate ? 1 : 0);
    }
  });

  it('refuses arguments that the tool does not have, and those that the builder set', async () => {
    house.service.flows.drafts.save(
      deskFlow(`instructions: ""
toolbox: [{ server: lift, tools: { schedule_load: { approval: every, arguments: { hut: { set: larch } } } } }]`),
    );
    const first = await say('s1');
    const { facts } = await question();
    expect(await refused({ value: { ...facts, to_account: 'x' } })).to.include({ at: '/value/to_account' });
    expect(await refused({ value: { ...facts, hut: 'kestrel' } })).to.include({ at: '/value/hut' });
    await decide({ value: { ...facts, weight_kg: 30 }, note: 'Only half of it.' });
    const run = await ended(first.run);
    expect(lift.loads().map(({ hut, weight_kg }) => [hut, weight_kg])).to.deep.equal([['larch', 30]]);
    // Who decided, when, and what they changed: in the trace, the receipt, what the model reads, and the list.
    const call = run.spans.find(({ name }) => name === 'execute_tool schedule_load')!;
    expect(call.attributes['pindro.approval']).to.deep.nested.include({
      by: 'owner',
      note: 'Only half of it.',
      covers: 'call',
      'changed.weight_kg.to': 30,
    });
    expect(Date.parse((call.attributes['pindro.approval'] as { at: string }).at)).to.be.closeTo(Date.now(), 60_000);
    const agent = run.spans.find((span) => span.work === 'agent')!;
    expect(agent.attributes['pindro.receipt']).to.deep.nested.include({ 'done[0].approval.by': 'owner' });
    const read = JSON.stringify(model.asked.at(-1)!.body);
    expect(read).to.contain('owner approved this call').and.contain('Only half of it').and.contain('to 30');
    const env = { PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey };
    const shown = await pindro(['approval', 'show', first.run], { env });
    expect(shown.out)
      .to.match(/weight_kg +30 +requested: \d+/)
      .and.contain('approved by owner')
      .and.contain('Only half');
    expect((await pindro(['approval', 'list', '--all'], { env })).out)
      .to.contain('→ 30')
      .and.contain('by owner');
  });

  it('is given by the caller alone where they are to decide, and by somebody else where four eyes are wanted', async () => {
    await house.api.addPerson({ body: { name: 'ines', role: 'operator' } });
    const cookie = async (name: string) => {
      const { url } = await house.api.createSignInLink({ body: { person: name } });
      return (await fetch(url, { redirect: 'manual' })).headers.get('set-cookie')!.split(';')[0]!;
    };
    const ines = await cookie('ines');
    const as = async (path: string, body: object) => {
      const response = await fetch(`${house.service.url}/api/v1${path}`, {
        method: 'POST',
        headers: { cookie: ines, origin: house.service.url, 'content-type': 'application/json' },
        body: JSON.stringify(body),
      });
      return (await response.json()) as { code?: string; decision?: string; run: string };
    };
    house.service.flows.drafts.save(desk('{ ask: every, by: caller }'));
    const mine = await say('s1');
    const asked = await question();
    expect((await as(`/approvals/${asked.run}/decide`, { path: asked.path, decision: 'approved' })).code).to.equal(
      'approval_not_yours',
    );
    await decide();
    await ended(mine.run);
    house.service.flows.drafts.save(desk('{ ask: every, four_eyes: true }'));
    const again = await say('s2');
    expect(await refused({})).to.include({ code: 'approval_own', status: 403 });
    const { run, path } = await question();
    expect((await as(`/approvals/${run}/decide`, { path, decision: 'approved' })).decision).to.equal('approved');
    await ended(again.run);
    // A step that asks has the same rule.
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: ask\nsteps:\n  ask: { kind: approve, with: { title: "Close the hut?", four_eyes: true } }\n',
    );
    const step = await house.api.runFlow({ name: 'ask', body: { input: {} } });
    expect(await refused({})).to.include({ code: 'approval_own' });
    await decide({}, 'refused');
    await ended(step.run);
  });

  it('covers one visitor of a public chat, who alone answers what is asked of them', async () => {
    house.service.flows.drafts.save(desk('{ ask: caller, by: caller }').replace('session.id', 'caller.id'));
    house.service.flows.revisions.publish('desk');
    await house.api.createEntry({ body: { flow: 'desk', path: 'desk', settings: { kind: 'chat' } } });
    const page = `${house.service.url}/chats/desk`;
    /** One browser. */
    const visitor = () => {
      let cookie = '';
      const send = async (path = '', form?: Record<string, string>) => {
        const response = await fetch(page + path, {
          redirect: 'manual',
          headers: { ...(cookie && { cookie }), ...(form && path === '' && { accept: 'application/json' }) },
          ...(form && { method: 'POST', body: new URLSearchParams(form) }),
        });
        cookie = response.headers.get('set-cookie')?.split(';')[0] ?? cookie;
        return response.text();
      };
      return { send, cookie: () => cookie, be: (other: string) => (cookie = other) };
    };
    const [a, b] = [visitor(), visitor()];
    await a.send();
    expect(await a.send('', { message: 'Send 80 kg of flour up to larch on 2027-02-13.' })).to.contain('"asks":true');
    const shown = await a.send();
    expect(shown).to.contain('schedule load?').and.contain('name="run"').and.contain('Approve');
    const field = (name: string) => new RegExp(`name="${name}" value="([^"]+)"`).exec(shown)![1]!;
    const answer = { run: field('run'), path: field('path'), decision: 'approved' };
    // Another visitor sees nothing of it and cannot answer it, and neither can somebody at the console.
    expect(await b.send()).not.to.contain('schedule load?');
    await b.send('/answer', answer);
    expect(await refused({})).to.include({ code: 'approval_not_yours' });
    expect(lift.loads()).to.have.length(0);
    await a.send('/answer', answer);
    await until(() => lift.loads().length === 1, 'the load');
    await until(async () => !(await a.send()).includes('data-running'), 'the answer');
    // What was approved by one holds for that one.
    expect(await a.send('', { message: 'Send 81 kg of flour up to larch on 2027-02-13.' })).not.to.contain('"asks"');
    expect(await b.send('', { message: 'Send 82 kg of flour up to larch on 2027-02-13.' })).to.contain('"asks":true');
    expect(lift.loads()).to.have.length(2);
    // A cookie of somebody's own making, or of another entry point, is none.
    const forged = visitor();
    for (const cookie of [
      'pindro_chat=6f1c1a52-8a45-4a3e-9a1f-0b5a6d9f1c11',
      `${a.cookie().split('.')[0]}.${'A'.repeat(43)}`,
      a.cookie().replace(/^pindro_chat=./, (text) => (text.endsWith('0') ? 'pindro_chat=1' : 'pindro_chat=0')),
    ]) {
      forged.be(cookie);
      expect(await forged.send(), cookie).not.to.contain('flour');
      expect(forged.cookie()).not.to.equal(cookie);
    }
    const callers = (await house.api.listRuns({ query: {} })).items.map(({ caller }) => caller);
    expect(new Set(callers.filter((one) => one.startsWith('chat desk #'))).size).to.equal(2);
    // Each has a memory of their own: the one who waits keeps nobody else waiting.
    expect((await house.api.listMemories({ query: {} })).items).to.have.length(1);
    expect(await a.send('', { message: 'Send 83 kg of flour up to larch on 2027-02-13.' })).not.to.contain('"asks"');
  });
});

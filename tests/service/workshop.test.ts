import type { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { checkFlow, type JsonObject } from '@pindro/core';
import { EXAMPLE_FLOW } from '@pindro/service/parts';
import { expect } from 'chai';
import { callTool, connect, furnish, type Workspace, workspace } from '../support/workspace.js';

const LOOK = `format: pindro/flow@1
name: look-at-hut
title: Look at a hut
description: Looks up one hut by its name.
input: { type: object, required: [hut], properties: { hut: { type: string, description: Name of the hut } } }
steps:
  find: { kind: table, with: { table: huts, do: find, where: { name: "\${ input.hut }" }, limit: 1 } }
  tell: { kind: text, after: [find], with: { text: "\${ steps.find.rows[0].name } is there" } }
result: { bunks: "\${ steps.find.rows[0].bunks }" }
`;
const CLOSED = LOOK.replace('look-at-hut', 'closed-flow').replace('Look at a hut', 'Closed');
const CALLS = `format: pindro/flow@1
name: calls-closed
description: Calls a flow that is not open to assistants.
steps: { inner: { kind: flow, with: { flow: closed-flow, input: { hut: nowhere } } } }
`;

describe('the workshop for coding assistants', () => {
  let house: Workspace;
  let assistant: Client;
  const key = async (body: object = {}) =>
    (await house.api.issueKey({ body: { name: 'coder', endpoints: ['workshop'], ...body } })).key;
  const ask = async (tool: string, args: object = {}, client = assistant) => {
    const { isError, structuredContent, content } = await callTool(client, tool, args as JsonObject);
    if (isError) throw new Error((content as { text: string }[])[0]!.text);
    // biome-ignore lint/suspicious/noExplicitAny: what is answered differs by tool
    return structuredContent as Record<string, any>;
  };
  const refused = (work: Promise<unknown>) =>
    work.then(
      () => expect.fail('was not refused'),
      (error: Error) => error.message,
    );
  beforeEach(async () => {
    house = await workspace();
    furnish(house.service);
    for (const flow of [LOOK, CLOSED, CALLS]) {
      const { name } = house.service.flows.drafts.save(flow);
      house.service.flows.revisions.publish(name);
    }
    await house.api.updateWorkshop({ body: { on: true, open: ['look-at-hut', 'calls-closed'] } });
    assistant = await connect(house.service, await key({ propose: true }), 'workshop');
  });
  afterEach(async () => {
    await assistant.close();
    await house.close();
  });

  it('is closed until it is switched on, and opens to keys made for it alone', async () => {
    const good = await key();
    const any = await key({ endpoints: ['*'] });
    await house.api.updateWorkshop({ body: { on: false } });
    expect((await house.api.getWorkshop()).on).to.equal(false);
    expect(await refused(connect(house.service, good, 'workshop'))).to.contain('Endpoint \\"workshop\\" is disabled');
    expect(await refused(assistant.listTools())).to.contain('disabled');
    await house.api.updateWorkshop({ body: { on: true } });
    expect(await refused(connect(house.service, any, 'workshop'))).to.contain('does not grant access to endpoint');
    await (await connect(house.service, good, 'workshop')).close();
  });

  it('shows a plain key no tool that proposes, and a reading one none that calls', async () => {
    const names = async (body: object) => {
      const client = await connect(house.service, await key(body), 'workshop');
      const { tools } = await client.listTools();
      await client.close();
      return tools.map(({ name }) => name);
    };
    const plain = ['survey_flows', 'read_contract', 'perform_flow', 'look_at_runs', 'explain_run'];
    expect(await names({})).to.deep.equal(plain);
    expect(await names({ readOnly: true })).to.deep.equal(plain.filter((name) => name !== 'perform_flow'));
    expect(await names({ propose: true })).to.have.length(9);
    const client = await connect(house.service, await key(), 'workshop');
    expect(await refused(ask('propose_flow', { document: LOOK, why: 'because of this' }, client))).to.contain(
      'no tool',
    );
    await client.close();
    const review = await house.api.reviewEndpoint({ name: 'workshop' });
    expect(review.suggestions, 'our own review of our own tools').to.deep.equal([]);
  });

  it('gives contracts with each way to call, and what changed since a revision', async () => {
    await house.api.addTools({ name: 'huts', body: { tools: { look: { flow: 'look-at-hut' } } } });
    await house.api.createEntry({
      body: { flow: 'look-at-hut', path: 'look', settings: { kind: 'hook', guard: 'key' } },
    });
    const { flows } = await ask('survey_flows');
    expect(flows.map((one: { flow: string }) => one.flow)).to.deep.equal(['calls-closed', 'look-at-hut']);
    expect(flows[1]).to.include({ called_as: 'tools: 1, hooks: 1', latest_runs: 'none yet' });
    house.service.flows.drafts.save(
      LOOK.replace('required: [hut]', 'required: [hut, night]').replace(
        'properties: {',
        'properties: { night: { type: string },',
      ),
    );
    const live = await ask('read_contract', { flow: 'look-at-hut', since: 1 });
    expect(live).to.deep.include({ revision: 1, does: ['read-only'] });
    expect(live.changed).to.include({ in_short: 'No change for callers' });
    expect(live.ways_to_call.tools[0]).to.include({ endpoint: 'huts', tool: 'look' });
    expect(live.ways_to_call.hooks[0].address).to.match(/\/hooks\/look$/);
    house.service.flows.revisions.publish('look-at-hut');
    const { changed } = await ask('read_contract', { flow: 'look-at-hut', since: 1 });
    expect(changed).to.deep.include({ in_short: 'Callers must change something' });
    expect(changed.changes).to.deep.equal([{ what: 'Required argument "night" was added', breaks: true }]);
    expect(await refused(ask('read_contract', { flow: 'look-at-hut', since: 9 }))).to.contain('There are 2, 1');
  });

  it('calls open flows as runs of their own, and lets them be looked into', async () => {
    expect(await ask('perform_flow', { flow: 'look-at-hut', input: { hut: 'larch' } })).to.deep.equal({ bunks: 16 });
    expect(await refused(ask('perform_flow', { flow: 'look-at-hut', input: { hut: 'nowhere' } }))).to.contain(
      'Run: http',
    );
    const { runs } = await ask('look_at_runs', { state: 'failed' });
    expect(runs).to.have.length(1);
    expect(runs[0]).to.include({ flow: 'look-at-hut', came_by: 'tool workshop.perform_flow' });
    const run = await ask('explain_run', { run: runs[0].run });
    expect(run.steps[0]).to.deep.include({ step: 'find', kind: 'table', state: 'ok' });
    expect(run.findings[0].title).to.be.a('string').and.equal(runs[0].went_wrong);
    const { items } = await house.api.listRuns({});
    expect(items[0]).to.include({ flow: 'look-at-hut', caller: 'coder' });
    const usage = await house.api.endpointUsage({ name: 'workshop' });
    expect(usage.total).to.include({ calls: 2, failed: 1 });
  });

  it('tells nothing of what is closed', async () => {
    for (const tool of ['read_contract', 'perform_flow', 'look_at_runs', 'read_flow']) {
      const closed = await refused(ask(tool, { flow: 'closed-flow' }));
      const absent = await refused(ask(tool, { flow: 'absent-flow' }));
      expect(closed.replace('closed', 'absent')).to.equal(absent);
    }
    const outcome = await house.api.runFlow({ name: 'closed-flow', body: { input: { hut: 'larch' }, stage: 'live' } });
    expect(await refused(ask('explain_run', { run: outcome.run }))).to.contain('no run named');
    const draft = await house.api.runFlow({ name: 'look-at-hut', body: { input: { hut: 'larch' }, stage: 'draft' } });
    expect(await refused(ask('explain_run', { run: draft.run })), 'of the other stage').to.contain('no run named');
    expect(await refused(ask('explain_run', { run: "' OR 1=1" }))).to.contain('no run named');
    await refused(ask('perform_flow', { flow: 'calls-closed' }));
    const { runs } = await ask('look_at_runs', { flow: 'calls-closed' });
    const run = await ask('explain_run', { run: runs[0].run });
    expect(run.findings.map((one: { title: string }) => one.title)).to.include(
      'The failure is in a flow that is not open to you',
    );
    expect(run.steps.map((one: { step: string }) => one.step)).to.deep.equal(['inner']);
    await house.api.updateWorkshop({ body: { close: ['look-at-hut'] } });
    expect(await refused(ask('read_contract', { flow: 'look-at-hut' }))).to.contain(
      'No flow named "look-at-hut" is open',
    );
  });

  it('refuses arguments that do not fit, with where', async () => {
    expect(await refused(ask('look_at_runs', { limit: 900, colour: 'red' })))
      .to.contain('limit')
      .and.contain('at most 50')
      .and.contain('colour');
    expect(await refused(ask('read_format', { kind: 'tabel' }))).to.contain('Did you mean "table"?');
  });

  it('keeps proposals apart from drafts until a person takes them', async () => {
    const { document } = await ask('read_flow', { flow: 'look-at-hut' });
    const better = document.replace('Looks up one hut by its name.', 'Looks up one hut and its bunks.');
    const why = 'Says what comes back';
    const first = await ask('propose_flow', { document: better.replace('one hut', 'a hut'), why });
    const { proposal } = await ask('propose_flow', { document: better, why });
    expect(await refused(ask('follow_proposal', { proposal: first.proposal }))).to.contain('replaces an earlier one');
    expect(house.service.flows.drafts.get('look-at-hut').text).to.equal(LOOK);
    const [open, ...others] = (await house.api.getWorkshop()).proposals;
    expect(others).to.deep.equal([]);
    expect(open).to.include({ id: proposal, flow: 'look-at-hut', state: 'open', caller: 'coder', fresh: false });
    const looked = await house.api.getProposal({ id: proposal });
    expect(looked.comparison.changes.map(({ what }) => what)).to.deep.equal(['Description was changed']);
    house.service.flows.drafts.save(LOOK.replace('Look at a hut', 'Look at one hut'));
    const late = await house.api
      .acceptProposal({ id: proposal, body: { version: looked.version } })
      .catch((error) => error);
    expect(late.problem.code, 'the draft went on meanwhile').to.equal('draft_newer');
    await house.api.acceptProposal({ id: proposal, body: { note: 'Thank you' } });
    expect(house.service.flows.drafts.get('look-at-hut').text).to.equal(better);
    expect(await ask('follow_proposal', { proposal })).to.include({ state: 'taken', note: 'Thank you' });
    expect((await ask('follow_proposal', { proposal })).live).to.contain('not live');
    house.service.flows.revisions.publish('look-at-hut');
    expect((await ask('follow_proposal', { proposal })).live).to.equal('It is live.');
    const again = await house.api.rejectProposal({ id: proposal, body: {} }).catch((error) => error);
    expect(again.problem.detail).to.contain('was already taken');
  });

  it('checks what is proposed, and lets nobody else follow it', async () => {
    const why = 'because it would help';
    expect(await refused(ask('propose_flow', { document: LOOK.replace('kind: table', 'kind: tabel'), why })))
      .to.contain('/steps/find/kind')
      .and.contain('Did you mean "table"?');
    expect(await refused(ask('propose_flow', { document: CLOSED, why }))).to.contain('choose another');
    expect(await refused(ask('propose_flow', { document: LOOK, why }))).to.contain('');
    const { proposal, kind } = await ask('propose_flow', { document: EXAMPLE_FLOW, why });
    expect(kind).to.equal('a new flow');
    expect(checkFlow(EXAMPLE_FLOW, { tables: ['bookings'] }).mistakes, 'the example of read_format').to.deep.equal([]);
    const other = await connect(house.service, await key({ name: 'somebody-else', propose: true }), 'workshop');
    expect(await refused(ask('follow_proposal', { proposal }, other))).to.contain('no proposal of this key');
    await other.close();
    await house.api.rejectProposal({ id: proposal, body: { note: 'We count otherwise' } });
    expect(await ask('follow_proposal', { proposal })).to.include({ state: 'declined', note: 'We count otherwise' });
  });

  it('cannot be changed, removed, renamed, made anew or put into a toolbox', async () => {
    const codes = await Promise.all(
      [
        house.api.updateEndpoint({ name: 'workshop', body: { title: 'Mine' } }),
        house.api.renameEndpoint({ name: 'workshop', body: { to: 'mine' } }),
        house.api.renameEndpoint({ name: 'huts', body: { to: 'workshop' } }),
        house.api.removeEndpoint({ name: 'workshop' }),
        house.api.addTools({ name: 'workshop', body: { tools: { look: { flow: 'look-at-hut' } } } }),
        house.api.describeTool({ name: 'workshop', tool: 'survey_flows', body: { title: 'x' } }),
        house.api.removeTool({ name: 'workshop', tool: 'survey_flows' }),
        house.api.createEndpoint({ body: { document: { format: 'pindro/endpoint@1', name: 'workshop' } } }),
      ].map((work) => work.then(() => 'done').catch((error) => error.problem.code)),
    );
    expect(new Set(codes)).to.deep.equal(new Set(['name_reserved']));
    expect(await house.api.listEndpoints()).to.not.have.nested.property('items[1]');
    const agent = `format: pindro/flow@1\nname: a\nsteps: { ask: { kind: agent, with: { model: m, message: hi, toolbox: [{ endpoint: workshop }] } } }\n`;
    const { mistakes } = await house.api.checkFlow({ body: { document: agent } });
    expect(mistakes.map(({ message }) => message).join()).to.contain('workshop');
    expect((await house.api.testEndpoint({ name: 'workshop', body: {} })).ok).to.equal(true);
  });
});

import type { Client } from '@modelcontextprotocol/sdk/client/index.js';
import type { Lift } from '@pindro/standins';
import { expect } from 'chai';
import {
  callTool,
  connect,
  furnish,
  LIFT_KEY,
  startTestLift,
  type ToolAnswer,
  type Workspace,
  workspace,
} from '../support/workspace.js';

const LOAD = { hut: 'larch', day: '2027-02-14', weight_kg: 80 };
const INES = 'the-lift-key-of-ines';
const TOBIAS = 'the-lift-key-of-tobias';

describe("a caller's own credential", () => {
  let house: Workspace;
  let lift: Lift;
  const clients: Client[] = [];
  const secret = (name: string, text: string) =>
    house.api.addCredential({ body: { name, kind: 'bearer', account: name, secret: text } });
  const come = async (name: string, credentials: Record<string, string> = {}) => {
    const { key } = await house.api.issueKey({ body: { name, endpoints: ['huts'], credentials } });
    const client = await connect(house.service, key);
    clients.push(client);
    return client;
  };
  const schedule = (client: Client, tool = 'schedule_load') => callTool(client, tool, LOAD) as Promise<ToolAnswer>;
  const lastRun = async () => {
    const { items } = await house.api.listRuns({ query: { limit: 1 } });
    return house.api.getRun({ id: items[0]!.id });
  };
  beforeEach(async () => {
    house = await workspace();
    furnish(house.service);
    lift = await startTestLift({ accounts: { [INES]: 'ines', [TOBIAS]: 'tobias' } });
    await house.api.attachServer({ body: { name: 'lift', url: lift.url, secret: LIFT_KEY } });
    await house.api.addTools({
      name: 'huts',
      body: { tools: { schedule_load: { server: 'lift', tool: 'schedule_load', credential: 'caller' } } },
    });
    await secret('lift-ines', INES);
    await secret('lift-tobias', TOBIAS);
  });
  afterEach(async () => {
    for (const client of clients.splice(0)) await client.close();
    await house.close();
    await lift.close();
  });

  it('goes along with what each caller calls, and with nobody else', async () => {
    const ines = await come('ines', { lift: 'lift-ines' });
    const tobias = await come('tobias', { lift: 'lift-tobias' });
    const answers = await Promise.all([schedule(ines), schedule(tobias), schedule(ines)]);
    expect(answers.map(({ structuredContent }) => structuredContent?.ordered_by)).to.deep.equal([
      'ines',
      'tobias',
      'ines',
    ]);
    await house.api.describeTool({ name: 'huts', tool: 'schedule_load', body: { credential: 'workspace' } });
    expect((await schedule(ines)).structuredContent, "with the workspace's own").to.not.have.property('ordered_by');
    expect(JSON.stringify(await lastRun())).to.not.contain(INES);
  });

  it('is asked for where a key names none, in words that say what to do', async () => {
    const marit = await come('marit');
    const { isError, content } = await schedule(marit);
    expect(isError).to.equal(true);
    expect(content[0]!.text).to.contain('marit has none for it').and.contain('add a credential to it');
    expect(content[0]!.text, 'no advice for builders').to.not.contain('pindro ');
    const { findings } = await lastRun();
    expect(findings[0]).to.deep.include({ place: { server: 'lift' } });
    expect(findings[0]!.fix).to.contain('--credential lift=');
  });

  it('that the server refuses is no trouble of the server', async () => {
    await secret('lift-old', 'a-key-of-last-year');
    const marit = await come('marit', { lift: 'lift-old' });
    const { content } = await schedule(marit);
    expect(content[0]!.text).to.contain('rejected "lift-old"').and.not.contain('a-key-of-last-year');
    expect((await house.api.getServer({ name: 'lift' })).state).to.equal('ready');
    await house.api.replaceSecret({ name: 'lift-old', body: { secret: TOBIAS } });
    expect((await schedule(marit)).structuredContent).to.include({ ordered_by: 'tobias' });
  });

  it('reaches through flows that stand between, and whole servers', async () => {
    house.service.flows.drafts.save(`format: pindro/flow@1
name: send-inside
steps: { book: { kind: tool, with: { server: lift, tool: schedule_load, credential: caller, arguments: { hut: larch, day: "2027-02-14", weight_kg: 3 } } } }
result: { by: "\${ steps.book.data.ordered_by }" }
`);
    house.service.flows.drafts.save(`format: pindro/flow@1
name: send
description: Sends one load up to the hut larch, on behalf of whoever asks for it.
steps: { go: { kind: flow, with: { flow: send-inside } } }
result: "\${ steps.go }"
`);
    for (const flow of ['send-inside', 'send']) house.service.flows.revisions.publish(flow);
    await house.api.addTools({
      name: 'huts',
      body: { tools: { send: { flow: 'send' } }, servers: { lift: { use: ['schedule_*'], credential: 'caller' } } },
    });
    const ines = await come('ines', { lift: 'lift-ines' });
    const answer = (await callTool(ines, 'send', {})) as ToolAnswer;
    expect(JSON.stringify(answer.structuredContent)).to.contain('"by":"ines"');
    const { toolList } = await house.api.getEndpoint({ name: 'huts' });
    expect(toolList.find(({ name }) => name === 'schedule_load')).to.include({ credential: 'caller' });
    const run = await lastRun();
    const again = await house.api.retryRun({ id: run.id, body: {} });
    expect(again.error?.code, 'done again by somebody else').to.equal('caller_without_credential');
  });

  it('must be there when a key names it, and cannot be removed while one does', async () => {
    const refusal = (work: Promise<unknown>) =>
      work.then(() => 'done').catch((error) => error.problem.detail as string);
    const issue = (credentials: Record<string, string>) =>
      refusal(house.api.issueKey({ body: { name: 'x', endpoints: ['huts'], credentials } }));
    expect(await issue({ lift: 'lift-inez' })).to.contain('no credential named "lift-inez"');
    expect(await issue({ left: 'lift-ines' })).to.contain('no tool server named "left"');
    expect(await issue({ lift: 'lift-ines' })).to.equal('done');
    expect(await refusal(house.api.removeCredential({ name: 'lift-ines' }))).to.contain('key "x"');
    const flow = { tools: { bunks: { flow: 'reserve-bunks', credential: 'caller' } } };
    expect(await refusal(house.api.addTools({ name: 'huts', body: flow })), 'a flow has none').to.not.equal('done');
  });
});

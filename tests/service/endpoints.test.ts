import { join } from 'node:path';
import type { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { ToolListChangedNotificationSchema } from '@modelcontextprotocol/sdk/types.js';
import type { RunDetail } from '@pindro/contract';
import type { Lift } from '@pindro/standins';
import { expect } from 'chai';
import {
  callTool,
  connect,
  furnish,
  LIFT_KEY,
  RESERVE,
  startTestLift,
  until,
  type Workspace,
  workspace,
} from '../support/workspace.js';
import { DatabaseSync } from './sqlite.js';

describe('an endpoint, for a standard MCP client', () => {
  let house: Workspace;
  let lift: Lift;
  let keys: { ines: string; tobias: string };
  let ines: Client;
  before(async () => {
    house = await workspace();
    lift = await startTestLift();
    keys = furnish(house.service);
    await house.service.servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
    ines = await connect(house.service, keys.ines);
  });
  after(async () => {
    await ines.close();
    await house.close();
    await lift.close();
  });
  const runOf = (answer: { _meta?: Record<string, unknown> }) =>
    house.api.getRun({ id: String(answer._meta!['pindro/run']) });

  it('says what it is and lists its tools', async () => {
    expect(ines.getServerVersion()).to.deep.include({ name: 'huts', title: 'Huts' });
    expect(ines.getInstructions()).to.equal('Ask for the hut.');
    const { tools } = await ines.listTools();
    expect(tools.map((tool) => tool.name)).to.deep.equal(['reserve_bunks']);
    expect(tools[0]).to.have.nested.property('inputSchema.properties.night.format', 'date');
  });

  it('calls a flow; the row is in SQLite and the trace shows each step', async () => {
    const answer = await callTool(ines, 'reserve_bunks', { hut: 'kestrel', night: '2027-02-14', party: 4 });
    expect(answer.isError).to.not.equal(true);
    expect(answer.structuredContent).to.deep.include({ hut: 'kestrel', party: 4, by: 'ines' });
    expect(JSON.parse(answer.content[0]!.text)).to.deep.equal(answer.structuredContent);
    const database = new DatabaseSync(join(house.data, 'pindro.db'));
    expect(database.rows('SELECT hut, night, party, "by" FROM data_bookings')).to.deep.equal([
      { hut: 'kestrel', night: '2027-02-14', party: 4, by: 'ines' },
    ]);
    database.close();
    const { items } = await house.api.listRuns({ query: { flow: 'reserve-bunks', limit: 1 } });
    const run: RunDetail = await house.api.getRun({ id: items[0]!.id });
    expect(run).to.include({ state: 'done', entry: 'tool', caller: 'ines', stage: 'live' });
    expect(run.spans.map((span) => [span.work, span.name])).to.deep.equal([
      ['run', 'reserve-bunks'],
      ['step', 'place'],
      ['step', 'book'],
    ]);
    expect(run.spans[2]!.output).to.have.nested.property('row.party', 4);
  });

  it('lets one of two win the last bunks and tells the other why', async () => {
    await callTool(ines, 'reserve_bunks', { hut: 'larch', night: '2027-03-01', party: 10 });
    const tobias = await connect(house.service, keys.tobias);
    const both = await Promise.all(
      [ines, tobias].map((client) =>
        callTool(client, 'reserve_bunks', { hut: 'larch', night: '2027-03-01', party: 6 }),
      ),
    );
    await tobias.close();
    expect(both.filter((answer) => answer.isError)).to.have.length(1);
    const loser = both.find((answer) => answer.isError)!;
    expect(loser.content[0]!.text)
      .to.contain('larch has no room for 6 on 2027-03-01')
      .and.contain(`${house.service.url}/runs/`);
    expect(await runOf(loser)).to.deep.include({ state: 'failed' });
    const rows = house.service.tables.rows.find({
      table: 'bookings',
      where: [{ night: '2027-03-01' }],
      sort: null,
      descending: false,
      limit: 9,
    });
    expect(rows.reduce((sum, row) => sum + Number(row.party), 0)).to.equal(16);
  });

  it('gives tool errors that a model can mend, and records them', async () => {
    const wrong: [Record<string, unknown>, RegExp][] = [
      [{ hut: 'kestrel', party: 2 }, /"night" is missing \(First night of the stay\)/],
      [{ hut: 'kestrel', night: '2027-02-14', party: '2' }, /"party" must be an integer, not "2"/],
      [{ hut: 'kestrl', night: '2027-02-14', party: 2 }, /one of "kestrel", "larch"/],
      [{ hut: 'kestrel', night: '14.2.', party: 2 }, /date such as 2027-02-14/],
      [{ hut: 'kestrel', night: '2027-02-14', party: 2 ** 53 }, /2\^53/],
      [{ hut: 'kestrel', night: '2027-02-14', party: true }, /must be an integer, not true/],
    ];
    for (const [args, words] of wrong) {
      const answer = await callTool(ines, 'reserve_bunks', args);
      expect(answer.isError, JSON.stringify(args)).to.equal(true);
      expect(answer.content[0]!.text).to.match(words).and.contain('/runs/');
      expect((await runOf(answer)).findings[0]).to.include({ code: 'arguments_refused' });
    }
  });

  it('answers an unknown tool as a protocol error, with what was meant', async () => {
    const error = await ines.callTool({ name: 'reserve_bunk', arguments: {} }).catch((thrown: Error) => thrown);
    expect(String(error)).to.contain('Did you mean "reserve_bunks"?');
  });

  it('hides what the builder set, fills it in for the caller, and refuses it from outside', async () => {
    house.service.endpoints.save(
      'format: pindro/endpoint@1\nname: own\ntools:\n  reserve:\n    flow: reserve-bunks\n    description: Reserve in your own hut.\n    arguments: { hut: { set: "${ caller.hut }" }, party: { ask: { description: people } } }\n',
    );
    const { key } = house.service.keys.issue({
      name: 'own',
      caller: 'tobias',
      attributes: { hut: 'larch' },
      stage: 'live',
      endpoints: ['own'],
      manage: false,
    });
    const client = await connect(house.service, key, 'own');
    const { tools } = await client.listTools();
    expect(tools[0]).to.deep.include({ name: 'reserve', description: 'Reserve in your own hut.' });
    expect(Object.keys(tools[0]!.inputSchema.properties!)).to.deep.equal(['night', 'party']);
    expect((await callTool(client, 'reserve', { night: '2027-04-01', party: 1 })).structuredContent).to.deep.include({
      hut: 'larch',
      by: 'tobias',
    });
    const smuggled = await callTool(client, 'reserve', { hut: 'kestrel', night: '2027-04-01', party: 1 });
    expect(smuggled.content[0]!.text).to.contain('"hut" of reserve is set by the builder');
    expect(await runOf(smuggled)).to.deep.include({ state: 'failed' });
    await client.close();
  });

  it('serves a tool of an attached server, traced like any call', async () => {
    house.service.endpoints.save(
      'format: pindro/endpoint@1\nname: passing\ntools:\n  send: { server: lift, tool: schedule_load, arguments: { priority: { set: normal }, goods: omit } }\n  loads: { server: lift, tool: list_loads }\n',
    );
    const { key } = house.service.keys.issue({
      name: 'passing',
      attributes: {},
      stage: 'live',
      endpoints: ['*'],
      manage: false,
    });
    const client = await connect(house.service, key, 'passing');
    const sent = await callTool(client, 'send', { hut: 'larch', day: '2027-02-13', weight_kg: 100 });
    expect(sent.structuredContent).to.deep.include({ load: 'L-0001', priority: 'normal' });
    const refused = await callTool(client, 'send', { hut: 'larch', day: '2027-02-13', weight_kg: 400 });
    expect(refused).to.include({ isError: true });
    expect((await runOf(refused)).findings[0]!.title).to.contain('schedule_load of lift refused weight_kg = 400');
    await client.close();
  });

  it("applies a server's own argument rules once, and lets the endpoint override them", async () => {
    await house.api.updateServer({
      name: 'lift',
      body: { rules: { priority: { set: 'urgent' }, day: { set: '2027-03-02' } } },
    });
    house.service.endpoints.save(
      'format: pindro/endpoint@1\nname: ruled\ntools:\n  send: { server: lift, tool: schedule_load }\n  later: { server: lift, tool: schedule_load, arguments: { priority: { set: normal } } }\n',
    );
    house.service.endpoints.save(
      'format: pindro/endpoint@1\nname: whole\nservers: { lift: { arguments: { day: { set: "2027-03-03" } } } }\n',
    );
    const { key } = house.service.keys.issue({
      ...{ name: 'ruled', attributes: {}, stage: 'live', endpoints: ['*'], manage: false },
    });
    const load = { hut: 'kestrel', weight_kg: 20, goods: 'lamp oil' };
    const asked = async (endpoint: string, tool: string, more: object = {}) => {
      const client = await connect(house.service, key, endpoint);
      const { tools } = await client.listTools();
      const { inputSchema } = tools.find(({ name }) => name === tool)!;
      expect(inputSchema.properties).to.not.have.any.keys('priority', 'day');
      const answer = await callTool(client, tool, { ...load, ...more });
      await client.close();
      return answer;
    };
    expect((await asked('ruled', 'send')).structuredContent).to.include({ priority: 'urgent', day: '2027-03-02' });
    expect((await asked('ruled', 'later')).structuredContent).to.include({ priority: 'normal', day: '2027-03-02' });
    const whole = await asked('whole', 'schedule_load');
    expect(whole.structuredContent).to.include({ priority: 'urgent', day: '2027-03-03' });
    // What the client sends itself is still refused.
    const smuggled = await asked('ruled', 'send', { priority: 'normal' });
    expect(smuggled.content[0]!.text).to.contain('"priority" of send is set by the builder');
    await house.api.updateServer({ name: 'lift', body: { rules: {} } });
  });

  it('tells a listening client when its list changed, and not otherwise', async () => {
    let told = 0;
    ines.setNotificationHandler(ToolListChangedNotificationSchema, () => void told++);
    await new Promise((resolve) => setTimeout(resolve, 100));
    house.service.flows.drafts.save(
      RESERVE.replace('Reserve bunks in one hut for one night.', 'A draft that nobody sees yet.'),
    );
    house.service.bus.changed('server', 'lift');
    await new Promise((resolve) => setTimeout(resolve, 100));
    expect(told).to.equal(0);
    house.service.flows.revisions.publish('reserve-bunks');
    await until(() => told === 1, 'the notification');
    expect((await ines.listTools()).tools[0]!.description).to.contain('A draft that nobody sees yet');
  });

  it('shows drafts to a key whose stage is draft, at the same address', async () => {
    house.service.flows.drafts.save(
      RESERVE.replace('description: Reserve bunks in one hut', 'description: Only the draft says this, in one hut'),
    );
    const { key } = house.service.keys.issue({
      name: 'builder',
      attributes: {},
      stage: 'draft',
      endpoints: ['huts'],
      manage: false,
    });
    const client = await connect(house.service, key);
    expect((await client.listTools()).tools[0]!.description).to.contain('Only the draft says this');
    expect((await ines.listTools()).tools[0]!.description).not.to.contain('Only the draft');
    await client.close();
  });

  it('cuts off a revoked key at once', async () => {
    const { key, summary } = house.service.keys.issue({
      name: 'gone',
      attributes: {},
      stage: 'live',
      endpoints: ['huts'],
      manage: false,
    });
    const client = await connect(house.service, key);
    await house.api.revokeKey({ id: summary.id });
    const error = await client.listTools().catch((thrown: Error) => thrown);
    expect(String(error)).to.contain('was revoked on');
    const again = await connect(house.service, key).catch((thrown: Error) => thrown);
    expect(String(again)).to.contain('was revoked on');
  });

  it('joins the trace that a client sends', async () => {
    const traceId = 'ab'.repeat(16);
    await ines.callTool({
      name: 'reserve_bunks',
      arguments: { hut: 'kestrel', night: '2027-05-05', party: 1 },
      _meta: { traceparent: `00-${traceId}-${'cd'.repeat(8)}-01` },
    });
    const { items } = await house.api.listRuns({ query: { limit: 1 } });
    expect(items[0]).to.include({ traceId });
  });

  it('refuses an endpoint document with every mistake located', async () => {
    const refused = await house.api
      .createEndpoint({
        body: {
          document:
            'format: pindro/endpoint@1\nname: bad\ntools:\n  a: { flow: reserve-bunk }\n  b: { server: lift, tool: list_load }\n  c: { flow: reserve-bunks, arguments: { hutt: omit, party: omit } }\n',
        },
      })
      .catch((error) => error.problem);
    expect(
      refused.mistakes.map((mistake: { line: number; hint?: string }) => [mistake.line, mistake.hint]),
    ).to.deep.equal([
      [4, 'Did you mean "reserve-bunks"?'],
      [5, 'Did you mean "list_loads"?'],
      [6, 'Did you mean "hut"?'],
      [6, 'Set a value, or let the caller or model supply it.'],
    ]);
    expect(house.service.endpoints.names()).not.to.include('bad');
  });
});

import { type FaultyServer, startFaultyServer } from '@pindro/standins';
import { expect } from 'chai';
import { oddServer } from '../support/faulty-server.js';
import { refusal } from '../support/refusal.js';
import { scriptedModel } from '../support/scripted-model.js';
import { callTool, connect, until, type Workspace, workspace } from '../support/workspace.js';

describe('tool lists under watch', function () {
  this.timeout(30_000);
  let house: Workspace;
  let faulty: FaultyServer;
  beforeEach(async () => {
    [house, faulty] = await Promise.all([workspace(), startFaultyServer()]);
  });
  afterEach(() => Promise.all([house.close(), faulty.close()]));
  const attach = (more = {}) => house.api.attachServer({ body: { name: 'faulty', url: faulty.url, ...more } });
  const server = () => house.api.getServer({ name: 'faulty' });
  const names = async () => (await server()).toolList.map(({ name }) => name);
  const changes = async () => (await house.api.serverChanges({ name: 'faulty' })).items;
  const call = (tool: string, args: object = {}) =>
    house.api.callServerTool({ name: 'faulty', tool, body: { arguments: args as never } });
  /** The server turns, and says so. */
  const turn = async (list: Parameters<FaultyServer['turn']>[0], done: () => Promise<unknown>) => {
    faulty.turn(list);
    await until(done, `the list "${list}"`);
  };

  it('a list that turned into orders overnight is held, shown, refused, and later accepted in part', async () => {
    await attach();
    await call('closes').catch(() => {});
    await until(async () => (await server()).state === 'ready', 'it to be there');
    await turn('orders', async () => (await server()).held === 1);
    expect(await names()).not.to.include('good');
    const [change] = await changes();
    expect(change).to.deep.include({ tool: 'good', kind: 'changed', held: true, refused: null });
    expect(change!.parts[0]).to.deep.include({ at: 'description', before: 'Does what its name says: good.' });
    expect(change!.flags.map(({ rule }) => rule)).to.deep.equal(['orders', 'reaches']);
    expect(change!.flags[0]!.quote).to.contain('Before using any other tool');

    // Neither a call by hand, nor a step, nor an endpoint, nor an agent gets at it.
    expect((await refusal(call('good'))).code).to.equal('tool_held');
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: ask\nsteps: { a: { kind: tool, with: { server: faulty, tool: good } } }',
    );
    const run = await house.api.runFlow({ name: 'ask', body: {} });
    expect(run.error).to.include({ code: 'tool_held' });
    expect((await house.api.getRun({ id: run.run })).findings[0]).to.deep.include({
      code: 'tool_held',
      place: { server: 'faulty' },
    });

    const refused = await house.api.rejectChanges({ name: 'faulty', body: { tools: ['good'] } });
    expect(refused.items[0]).to.include({ refused: 'test' });
    expect((await refusal(call('good'))).detail).to.contain('test rejected its present version');
    await house.api.refreshServer({ name: 'faulty' });
    expect((await changes())[0]).to.include({ held: true, refused: 'test' });

    await house.api.acceptChanges({ name: 'faulty', body: { tools: ['good'] } });
    expect(await changes()).to.deep.equal([]);
    expect(await names()).to.include('good');
    expect((await call('good')).text).to.equal('all is well');
    const { items } = await house.api.serverHistory({ name: 'faulty' });
    expect(items.map(({ what, by }) => [what, by])).to.deep.equal([
      ['accepted', 'test'],
      ['refused', 'test'],
      ['seen', null],
      ['attached', null],
    ]);
    expect(items[2]!.changes[0]).to.include({ tool: 'good', kind: 'changed' });
  });

  it('accepts a part of what changed: the rest goes on waiting', async () => {
    await attach({ watch: 'hold' });
    await until(async () => (await server()).state === 'ready', 'it to be there');
    await turn('odd', async () => (await server()).held > 0);
    const waiting = (await changes()).map(({ tool }) => tool);
    expect(waiting).to.include.members(['recursing', 'invalid', 'shapeless']);
    const left = await house.api.acceptChanges({ name: 'faulty', body: { tools: ['recursing'] } });
    expect(left.items.map(({ tool }) => tool)).to.deep.equal(waiting.filter((tool) => tool !== 'recursing'));
    expect(await names())
      .to.include('recursing')
      .and.not.include('invalid');
    const unknown = await refusal(house.api.acceptChanges({ name: 'faulty', body: { tools: ['recursin'] } }));
    expect(unknown.code).to.equal('not_found');
  });

  it('what may come as it likes is taken, told and kept in the history', async () => {
    await attach();
    await until(async () => (await server()).state === 'ready', 'it to be there');
    await turn('renamed', async () => (await names()).includes('well'));
    expect((await server()).held).to.equal(0);
    const [latest] = (await house.api.serverHistory({ name: 'faulty' })).items;
    expect(latest!.changes).to.deep.include({
      ...{ tool: 'well', kind: 'renamed', was: 'good', parts: [{ at: 'description' }].slice(1) },
      breaks: ['Calls of good fail: the tool no longer exists.'],
    });
    const { items } = await house.api.serverLog({ name: 'faulty', query: {} });
    expect(items.map(({ text }) => text).join('\n')).to.contain('its tools changed: well (renamed)');
  });

  it('what is flagged when it is attached waits from the beginning', async () => {
    faulty.turn('hidden');
    const attached = await attach();
    expect(attached.heldTools.map(({ name }) => name)).to.deep.equal(['good']);
    expect((await changes())[0]!.flags[0]).to.include({ rule: 'hidden' });
    // All of it at once is not a look at what is flagged.
    await house.api.acceptChanges({ name: 'faulty', body: {} }).then(
      () => expect.fail('it was accepted unseen'),
      (error: Error) => expect(error.message).to.contain('accept it by name'),
    );
    expect((await server()).held).to.equal(1);
    await house.api.acceptChanges({ name: 'faulty', body: { tools: ['good'] } });
    expect((await server()).held).to.equal(0);
  });

  it('an endpoint that passes a server on leaves out what is held, and tells its clients', async () => {
    await attach({ watch: 'hold' });
    await until(async () => (await server()).state === 'ready', 'it to be there');
    house.service.endpoints.save('format: pindro/endpoint@1\nname: passed\nservers: { faulty: {} }\n');
    const client = await connect(house.service, house.apiKey, 'passed');
    const listed = async () => (await client.listTools()).tools.map(({ name }) => name);
    expect(await listed()).to.include('good');
    await turn('orders', async () => (await server()).held === 1);
    expect(await listed()).not.to.include('good');
    const answer = await callTool(client, 'good', {}).catch((error: Error) => error.message);
    expect(JSON.stringify(answer)).to.match(/good/);
    await client.close();
  });

  it('an agent goes on without what is held, and its trace says so', async () => {
    await attach();
    await until(async () => (await server()).state === 'ready', 'it to be there');
    await turn('orders', async () => (await server()).held === 1);
    const model = await scriptedModel([{ text: 'I could not look.' }]);
    await house.api.addModel({ body: { name: 'house', dialect: 'chat-completions', base: model.url, model: 'm' } });
    house.service.flows.drafts.save(
      `format: pindro/flow@1
name: desk
input: { type: object, properties: { message: { type: string } } }
steps:
  a:
    kind: agent
    with: { model: house, instructions: Help., message: "\${ input.message }", toolbox: [{ server: faulty, use: [good, slow] }] }
`,
    );
    const run = await house.api.runFlow({ name: 'desk', body: { input: { message: 'Is all well?' } } });
    const { spans } = await house.api.getRun({ id: run.run });
    const agent = spans.find(({ attributes }) => attributes['pindro.held_tools']);
    expect(JSON.stringify(agent!.attributes['pindro.held_tools'])).to.contain('good');
    await model.close();
  });

  it('a server that says nothing of its changes is asked from time to time', async () => {
    await house.close();
    house = await workspace({ refreshEvery: 300 });
    await attach({ speaks: 'http' });
    faulty.quietly('renamed');
    await until(async () => (await names()).includes('well'), 'the list to be read again');
  });

  it('lists and samples go with a server: renamed, removed and put back', async () => {
    await attach();
    await house.api.renameServer({ name: 'faulty', body: { to: 'wonky' } });
    expect((await house.api.serverHistory({ name: 'wonky' })).items).to.have.length(1);
    const { removal } = await house.api.removeServer({ name: 'wonky', query: {} });
    await house.api.restoreRemoved({ id: removal.id });
    expect((await house.api.serverHistory({ name: 'wonky' })).items).to.have.length(1);
  });
});

describe('one of three servers that dies under a run', function () {
  this.timeout(40_000);

  it('sinks nobody: the agent finishes, trace and page say why, and it comes back by itself', async () => {
    const house = await workspace();
    const tool = (name: string) => [{ name, inputSchema: { type: 'object' } }];
    const text = (words: string) => ({ content: [{ type: 'text', text: words }] });
    const [first, third] = await Promise.all([
      oddServer(tool('weather'), () => text('clear')),
      oddServer(tool('stock'), () => text('plenty')),
    ]);
    let second = await oddServer(tool('trail'), () => text('dry'));
    const { port } = new URL(second.url);
    for (const [name, { url }] of Object.entries({ first, second, third }))
      await house.api.attachServer({ body: { name, url } });
    await until(
      async () => (await house.api.listServers({ query: {} })).items.every(({ state }) => state === 'ready'),
      'all',
    );
    const ask = (name: string) => ({ calls: [{ name, arguments: {} }] });
    // The second one dies after the model has asked for the first time.
    const model = await scriptedModel([
      // It is tried when it is added.
      { text: 'hello' },
      ask('weather'),
      (response) => {
        second.close();
        response.writeHead(200, { 'content-type': 'application/json' });
        const call = { index: 0, id: 'c2', type: 'function', function: { name: 'trail', arguments: '{}' } };
        const choice = { index: 0, message: { role: 'assistant', tool_calls: [call] }, finish_reason: 'tool_calls' };
        response.end(JSON.stringify({ choices: [choice], usage: { prompt_tokens: 1, completion_tokens: 1 } }));
      },
      ask('stock'),
      { text: 'The weather is clear and there is plenty; of the trail I know nothing.' },
    ]);
    await house.api.addModel({ body: { name: 'house', dialect: 'chat-completions', base: model.url, model: 'm' } });
    house.service.flows.drafts.save(`format: pindro/flow@1
name: desk
steps:
  a: { kind: agent, with: { model: house, message: hello, toolbox: [{ server: first }, { server: second }, { server: third }] } }
result: "\${ steps.a.calls }"
`);
    const outcome = await house.api.runFlow({ name: 'desk', body: {} });
    expect(outcome.state).to.equal('done');
    expect(
      (outcome.result as { tool: string; failed: boolean }[]).map(({ tool: name, failed }) => [name, failed]),
    ).to.deep.equal([
      ['weather', false],
      ['trail', true],
      ['stock', false],
    ]);
    const { spans } = await house.api.getRun({ id: outcome.run });
    const failed = spans.find(({ name }) => name === 'execute_tool trail')!;
    expect(failed.error!.message).to.match(/second.*(?:cannot be reached|went away)/);
    await until(
      async () => (await house.api.getServer({ name: 'second' })).state === 'unreachable',
      'its page to say so',
    );
    expect((await house.api.getServer({ name: 'second' })).trouble).to.contain('second');
    second = await oddServer(tool('trail'), () => text('dry again'), {}, Number(port));
    await until(async () => (await house.api.getServer({ name: 'second' })).state === 'ready', 'it to be back', 20_000);
    const answer = await house.api.callServerTool({ name: 'second', tool: 'trail', body: { arguments: {} } });
    expect(answer.text).to.equal('dry again');
    for (const one of [first, second, third]) one.close();
    await model.close();
    await house.close();
  });
});

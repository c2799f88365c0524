import { createServer, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { json } from 'node:stream/consumers';
import { type FaultyServer, startFaultyServer } from '@pindro/standins';
import { expect } from 'chai';
import { oddServer } from '../support/faulty-server.js';
import { refusal } from '../support/refusal.js';
import { until, type Workspace, workspace } from '../support/workspace.js';

const text = (words: string) => ({ content: [{ type: 'text', text: words }] });
const pause = (milliseconds: number) => new Promise((resolve) => setTimeout(resolve, milliseconds));

describe('how much is asked of a tool server', function () {
  this.timeout(30_000);
  let house: Workspace;
  before(async () => {
    house = await workspace();
  });
  after(() => house.close());
  const call = (name: string, tool: string, args: object = {}) =>
    house.api.callServerTool({ name, tool, body: { arguments: args as never } });

  it('at most so many calls are under way; others wait for their turn', async () => {
    let under = 0;
    let most = 0;
    const server = await oddServer([{ name: 'weigh', inputSchema: { type: 'object' } }], async () => {
      most = Math.max(most, ++under);
      await pause(80);
      under--;
      return text('ok');
    });
    await house.api.attachServer({ body: { name: 'scales', url: server.url, limits: { at_once: 2 } } });
    await Promise.all(Array.from({ length: 7 }, () => call('scales', 'weigh')));
    expect([most, server.calls.length]).to.deep.equal([2, 7]);
    server.close();
  });

  it('a call that takes too long is given up by the time that was set, and one that goes silent too', async () => {
    const faulty = await startFaultyServer();
    await house.api.attachServer({
      body: { name: 'slow', url: faulty.url, limits: { call: '300ms', silence: '500ms' } },
    });
    const begun = performance.now();
    const hung = await refusal(call('slow', 'hangs'));
    expect(hung.code).to.equal('timed_out');
    expect(performance.now() - begun).to.be.below(5000);
    // It says how far it is every 200 ms, for much longer than a call may take otherwise.
    expect((await call('slow', 'slow', { steps: 6 })).text).to.equal('done in 6 steps');
    await faulty.close();
  });

  it('a server that fails again and again is paused for a while, and found well by itself', async () => {
    const server = await oddServer([{ name: 'weigh', inputSchema: { type: 'object' } }], () => text('ok'));
    const port = Number(new URL(server.url).port);
    await house.api.attachServer({ body: { name: 'gone', url: server.url } });
    await until(async () => (await house.api.getServer({ name: 'gone' })).state === 'ready', 'it to be there');
    server.close();
    await until(async () => {
      const { code } = await refusal(call('gone', 'weigh'));
      return code === 'server_left_alone';
    }, 'calls to be refused');
    const told = await refusal(call('gone', 'weigh'));
    expect(told.detail).to.match(/failed \d+ times in a row and is paused for \d+ s.*cannot be reached/);
    expect((await house.api.getServer({ name: 'gone' })).leftAloneUntil).to.be.a('string');
    const again = await oddServer(
      [{ name: 'weigh', inputSchema: { type: 'object' } }],
      () => text('recovers'),
      {},
      port,
    );
    await until(async () => (await house.api.getServer({ name: 'gone' })).state === 'ready', 'it to be well', 20_000);
    expect((await call('gone', 'weigh')).text).to.equal('recovers');
    again.close();
  });
});

describe('a stream that ends before its answer', function () {
  this.timeout(20_000);
  let house: Workspace;
  let server: Server;
  let taken: (string | undefined)[];
  let goesOn: boolean;
  beforeEach(async () => {
    house = await workspace();
    taken = [];
    goesOn = true;
    const event = (stream: ServerResponse, id: string, data: object | '') =>
      stream.write(`id: ${id}\ndata: ${data === '' ? '' : JSON.stringify(data)}\n\n`);
    let asked = 0;
    let waits: number | undefined;
    server = createServer(async (request, response) => {
      const last = request.headers['last-event-id'] as string | undefined;
      if (request.method === 'GET' && last === undefined) return void response.writeHead(405).end();
      if (request.method === 'GET') {
        taken.push(last);
        if (!goesOn) return void response.writeHead(404).end();
        response.writeHead(200, { 'content-type': 'text/event-stream' });
        event(response, 'e3', { jsonrpc: '2.0', id: waits, result: text('the') });
        return void response.end();
      }
      const { id, method } = (await json(request)) as { id?: number; method: string };
      if (id === undefined) return void response.writeHead(202).end();
      const info = {
        protocolVersion: '2025-06-18',
        capabilities: { tools: {} },
        serverInfo: { name: 'a', version: '1' },
      };
      const tools = [
        { name: 'book', inputSchema: { type: 'object' } },
        { name: 'look', inputSchema: { type: 'object' }, annotations: { readOnlyHint: true } },
      ];
      if (method !== 'tools/call') {
        response.setHeader('content-type', 'application/json');
        return void response.end(
          JSON.stringify({ jsonrpc: '2.0', id, result: method === 'initialize' ? info : { tools } }),
        );
      }
      asked++;
      waits = id;
      response.writeHead(200, { 'content-type': 'text/event-stream' });
      if (asked > 1 && !goesOn) {
        event(response, 'f1', { jsonrpc: '2.0', id, result: text('to') });
        return void response.end();
      }
      response.write('retry: 50\n');
      event(response, 'e1', '');
      event(response, 'e2', {
        jsonrpc: '2.0',
        method: 'notifications/message',
        params: { level: 'info', data: 'begun' },
      });
      setTimeout(() => response.destroy(), 50);
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/mcp`;
    await house.api.attachServer({ body: { name: 'there', url } });
  });
  afterEach(async () => {
    server.closeAllConnections();
    await new Promise((resolve) => server.close(resolve));
    await house.close();
  });
  const call = (tool: string) => house.api.callServerTool({ name: 'there', tool, body: { arguments: {} } });

  it('is taken up again behind the last event, as soon as the server says', async () => {
    expect((await call('book')).text).to.equal('the');
    expect(taken).to.deep.equal(['e2']);
    const { items } = await house.api.serverLog({ name: 'there', query: {} });
    expect(items).to.deep.include.members([{ ...items.find(({ text: said }) => said === 'begun')!, from: 'server' }]);
  });

  it('that cannot be taken up is lost, unless the tool only reads: then it is called once more', async () => {
    goesOn = false;
    const lost = await refusal(call('book'));
    expect(lost.code).to.equal('server_lost');
    expect(lost.hint).to.contain('whether the call took effect');
    expect(taken.every((one) => one === 'e2')).to.equal(true);
    expect((await call('look')).text).to.equal('to');
  });
});

describe('every fault of the misbehaving server', function () {
  this.timeout(60_000);
  let house: Workspace;
  let faulty: FaultyServer;
  before(async () => {
    [house, faulty] = await Promise.all([workspace(), startFaultyServer()]);
    for (const [name, url] of [
      ['http', faulty.url],
      ['sse', faulty.older],
    ] as const)
      await house.api.attachServer({ body: { name, url, limits: { call: '20s' } } });
  });
  after(() => Promise.all([house.close(), faulty.close()]));
  const call = (name: string, tool: string, args: object = {}) =>
    house.api.callServerTool({ name, tool, body: { arguments: args as never } });

  for (const name of ['http', 'sse'] as const) {
    it(`a code of its own is that call's, with its words and data, over ${name}`, async () => {
      for (const code of [-32_000, -32_001, -32_600, -32_601, -32_602, -32_603, -32_700, 1, 4711]) {
        const problem = await refusal(call(name, 'code', { code }));
        expect([problem.code, problem.detail], String(code)).to.deep.equal([
          'tool_reported_error',
          `${name}.code reported an error: as you wished`,
        ]);
      }
      expect((await house.api.getServer({ name })).state).to.equal('ready');
    });

    it(`an answer of 200 MB is refused, and the next call goes through, over ${name}`, async () => {
      const problem = await refusal(call(name, 'large', { megabytes: 200 }));
      expect(problem.code).to.equal('answer_too_large');
      await until(async () => (await call(name, 'good').catch(() => null))?.text === 'all is well', 'the next call');
    });

    it(`odd schemas and names cost nobody else, over ${name}`, async () => {
      faulty.turn('odd');
      await until(
        async () => (await house.api.getServer({ name })).toolList.some((one) => one.name === 'invalid'),
        'them',
      );
      const { toolList } = await house.api.getServer({ name });
      expect(toolList.map((one) => one.name)).to.include.members([
        'recursing',
        'invalid',
        'späte Meldung 🏔',
        'shapeless',
      ]);
      expect((await call(name, 'good')).text).to.equal('all is well');
      faulty.turn('empty');
      await until(async () => (await house.api.getServer({ name })).tools === 0, 'an empty list');
      faulty.turn('usual');
      await until(async () => (await house.api.getServer({ name })).tools > 5, 'the usual list');
    });
  }
});

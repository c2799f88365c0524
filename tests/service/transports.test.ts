import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Lift } from '@pindro/standins';
import { expect } from 'chai';
import { refusal } from '../support/refusal.js';
import { LIFT_KEY, startTestLift, until, type Workspace, workspace } from '../support/workspace.js';

const LOAD = { hut: 'larch', day: '2027-02-14', weight_kg: 40, goods: 'gas' };

describe('how a tool server speaks', () => {
  let house: Workspace;
  let lift: Lift;
  beforeEach(async () => {
    [house, lift] = await Promise.all([workspace(), startTestLift()]);
  });
  afterEach(() => Promise.all([house.close(), lift.close()]));
  const attach = (name: string, url: string, more = {}) =>
    house.api.attachServer({ body: { name, url, secret: LIFT_KEY, ...more } });
  const call = (name: string, tool: string, args: object = {}) =>
    house.api.callServerTool({ name, tool, body: { arguments: args as never } });

  it('is found by trying: the newest way first, then the one before it', async () => {
    const now = await attach('now', lift.url);
    expect(now).to.include({ speaks: 'http', state: 'ready', tools: 4 });
    const older = await attach('older', lift.older);
    expect(older).to.include({ speaks: 'sse', state: 'ready', tools: 4 });
    expect((await call('older', 'schedule_load', LOAD)).isError).to.equal(false);
    expect((await call('now', 'lift_status')).data).to.include({ waiting: 1 });
  });

  it('is said by whoever knows it, and mended where it was said wrong', async () => {
    expect(await attach('older', lift.older, { speaks: 'sse' })).to.include({ speaks: 'sse' });
    expect(await attach('wrong', lift.older, { speaks: 'http' })).to.include({ speaks: 'sse' });
    expect(await attach('right', lift.url, { speaks: 'sse' })).to.include({ speaks: 'http' });
  });

  it('stays with it through exports, copies, renames and a restart', async () => {
    await attach('older', lift.older);
    await house.api.copyServer({ name: 'older', body: { to: 'again' } });
    await house.api.renameServer({ name: 'older', body: { to: 'cable' } });
    expect((await house.api.getServer({ name: 'again' })).speaks).to.equal('sse');
    expect((await house.api.refreshServer({ name: 'cable' })).state).to.equal('ready');
    const { files } = await house.api.exportWorkspace({ query: {} });
    expect(files['servers/cable.yaml']).to.contain('speaks: sse');
  });

  it('is looked for anew when the server is changed to another address', async () => {
    await attach('lift', lift.url);
    const moved = await house.api.updateServer({ name: 'lift', body: { url: lift.older } });
    expect(moved).to.include({ speaks: 'sse', url: lift.older, state: 'ready' });
  });

  it('a stream that breaks takes what waits on it with it, says so, and comes back by itself', async () => {
    const slow = await startTestLift({ delay: 1500 });
    await attach('slow', slow.older);
    const waiting = refusal(call('slow', 'schedule_load', LOAD));
    await new Promise((resolve) => setTimeout(resolve, 300));
    slow.http.closeAllConnections();
    expect((await waiting).code).to.equal('server_lost');
    await until(async () => (await house.api.getServer({ name: 'slow' })).state === 'ready', 'it to be back', 12_000);
    expect((await call('slow', 'lift_status')).isError).to.equal(false);
    await slow.close();
  });

  it('a wrong key is told as that in every way', async () => {
    for (const url of [lift.url, lift.older])
      expect((await refusal(attach('lift', url, { secret: 'not-the-right-key' }))).code, url).to.equal(
        'server_wants_key',
      );
  });
});

describe('what is no tool server', () => {
  let house: Workspace;
  let server: Server;
  let answer: Parameters<typeof createServer>[1];
  const url = () => `http://127.0.0.1:${(server.address() as AddressInfo).port}/mcp`;
  before(async () => {
    house = await workspace();
    server = createServer((request, response) => (answer as (...all: unknown[]) => void)(request, response));
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  });
  after(async () => {
    server.closeAllConnections();
    await new Promise((resolve) => server.close(resolve));
    await house.close();
  });

  const PAGES: [string, Parameters<typeof createServer>[1], RegExp][] = [
    [
      'a web page',
      (_, response) => void response.setHeader('content-type', 'text/html').end('<h1>Welcome</h1>'),
      /content type text\/html.*web page/s,
    ],
    ['one that has too much to do', (_, response) => void response.writeHead(503).end(), /is busy.*503/s],
    [
      'one that leads elsewhere',
      (_, response) => void response.writeHead(302, { location: 'http://127.0.0.1:9/mcp' }).end(),
      /./,
    ],
    ['an address that is not there', (_, response) => void response.writeHead(404).end('nothing here'), /returned 404/],
    ['one that takes no posts', (_, response) => void response.writeHead(405).end(), /returned 405/],
    ['one that is broken', (_, response) => void response.writeHead(500).end('oops'), /returned 500/],
    [
      'a stream of something else',
      (_, response) => {
        response.writeHead(200, { 'content-type': 'text/event-stream' });
        response.write('event: news\ndata: snow on the ridge\n\n');
        setTimeout(() => response.end(), 200);
      },
      /./,
    ],
  ];
  for (const [what, page, why] of PAGES)
    it(`${what} is told with what it answered`, async () => {
      answer = page;
      const problem = await refusal(house.api.attachServer({ body: { name: 'page', url: url() } }));
      expect(problem.status, problem.detail).to.be.oneOf([502, 503, 504]);
      expect(`${problem.detail} ${problem.hint}`).to.match(why);
      expect(problem.hint).not.to.equal('');
      expect((await house.api.listServers({ query: {} })).items).to.deep.equal([]);
    });

  it('an older server that wants a key is told as that, not as what it does not take', async () => {
    answer = (request, response) => void response.writeHead(request.method === 'POST' ? 405 : 401).end();
    const problem = await refusal(house.api.attachServer({ body: { name: 'page', url: url() } }));
    expect(problem.code).to.equal('server_wants_key');
  });

  it('one that opens a stream and says nothing is given up', async function () {
    this.timeout(60_000);
    answer = (request, response) => {
      if (request.method === 'POST') return void response.writeHead(405).end();
      response.writeHead(200, { 'content-type': 'text/event-stream' });
      response.write(': hello\n\n');
    };
    const problem = await refusal(house.api.attachServer({ body: { name: 'page', url: url() } }));
    expect(problem.detail).to.match(/returned 405/);
  });
});

import { createServer as createPlainServer, type Server } from 'node:http';
import { createServer } from 'node:https';
import { type AddressInfo, connect, type Socket } from 'node:net';
import { json } from 'node:stream/consumers';
import { expect } from 'chai';
import { AUTHORITY, CLIENT_IDENTITY, SERVER_CERTIFICATE, SERVER_KEY } from '../support/certificates.js';
import { oddServer } from '../support/faulty-server.js';
import { refusal } from '../support/refusal.js';
import { type Workspace, workspace } from '../support/workspace.js';

const portOf = (server: Server | ReturnType<typeof createServer>) => (server.address() as AddressInfo).port;

describe('the way to a tool server', function () {
  this.timeout(20_000);
  let house: Workspace;
  let server: ReturnType<typeof createServer>;
  let wantsClient: boolean;
  before(async () => {
    const hosts: Record<string, string[]> = { 'lift.example': ['127.0.0.1'], 'other.example': ['127.0.0.1'] };
    house = await workspace({ resolve: async (host) => hosts[host] ?? [] });
    server = createServer(
      { cert: SERVER_CERTIFICATE, key: SERVER_KEY, ca: AUTHORITY, requestCert: true, rejectUnauthorized: false },
      async (request, response) => {
        const { authorized } = request.socket as unknown as { authorized: boolean };
        if (wantsClient && !authorized) return void response.writeHead(403).end('show your certificate');
        const { id, method } = (await json(request)) as { id?: number; method: string };
        if (id === undefined) return void response.writeHead(202).end();
        const info = { protocolVersion: '2025-06-18', capabilities: {}, serverInfo: { name: 'a', version: '1' } };
        const tools = [{ name: 'weigh', inputSchema: { type: 'object' } }];
        response.setHeader('content-type', 'application/json');
        response.end(JSON.stringify({ jsonrpc: '2.0', id, result: method === 'initialize' ? info : { tools } }));
      },
    );
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  });
  beforeEach(() => {
    wantsClient = false;
  });
  afterEach(async () => {
    for (const { name } of (await house.api.listServers({ query: {} })).items)
      await house.api.removeServer({ name, query: {} });
  });
  after(async () => {
    server.closeAllConnections();
    await new Promise((resolve) => server.close(resolve));
    await house.close();
  });
  const attach = (host: string, network?: object) =>
    house.api.attachServer({
      body: { name: 'lift', url: `https://${host}:${portOf(server)}/mcp`, ...(network && { network }) },
    });

  it('a certificate that nobody vouches for is told as that, and its authority can be trusted', async () => {
    const problem = await refusal(attach('lift.example'));
    expect(problem.detail).to.match(/certificate/);
    expect(await attach('lift.example', { ca: AUTHORITY })).to.include({ state: 'ready', tools: 1 });
    expect((await house.api.refreshServer({ name: 'lift' })).tools).to.equal(1);
  });

  it('a certificate for another name, and what is no TLS at all, are told as that', async () => {
    expect((await refusal(attach('other.example', { ca: AUTHORITY }))).detail).to.contain('for another name');
    const plain = await oddServer([], () => ({}));
    const url = plain.url.replace('http:', 'https:');
    const problem = await refusal(house.api.attachServer({ body: { name: 'lift', url } }));
    expect(problem.detail).to.contain('http://');
    plain.close();
  });

  it('shows who we are with a certificate, which is kept as a credential and goes nowhere else', async () => {
    wantsClient = true;
    expect((await refusal(attach('lift.example', { ca: AUTHORITY }))).detail).to.contain('show your certificate');
    const body = { name: 'desk-certificate', kind: 'certificate' as const, secret: CLIENT_IDENTITY };
    expect((await refusal(house.api.addCredential({ body: { ...body, secret: 'no certificate' } }))).detail).to.contain(
      'certificate and its private key',
    );
    await house.api.addCredential({ body });
    const network = { ca: AUTHORITY, certificate: 'desk-certificate' };
    expect(await attach('lift.example', network)).to.include({ state: 'ready' });
    const { usedBy, origins } = await house.api.getCredential({ name: 'desk-certificate' });
    expect(usedBy).to.deep.equal(['tool server "lift"']);
    expect(origins).to.deep.equal([`https://lift.example:${portOf(server)}`]);
    const { files } = await house.api.exportWorkspace({ query: {} });
    expect(JSON.stringify(files)).to.contain('certificate: desk-certificate').and.not.contain('PRIVATE KEY');
  });

  it('goes through a proxy of its own', async () => {
    const asked: string[] = [];
    const proxy = createPlainServer();
    proxy.on('connect', (request, socket: Socket) => {
      asked.push(String(request.url));
      const onward = connect(portOf(server), '127.0.0.1', () => {
        socket.write('HTTP/1.1 200 Connection Established\r\n\r\n');
        onward.pipe(socket).pipe(onward);
      });
      for (const one of [onward, socket]) one.on('error', () => {});
    });
    await new Promise<void>((resolve) => proxy.listen(0, '127.0.0.1', resolve));
    const network = { ca: AUTHORITY, proxy: `http://127.0.0.1:${portOf(proxy)}` };
    expect(await attach('lift.example', network)).to.include({ state: 'ready' });
    expect(new Set(asked)).to.deep.equal(new Set([`lift.example:${portOf(server)}`]));
    await house.api.removeServer({ name: 'lift', query: {} });
    proxy.closeAllConnections();
    proxy.close();
  });
});

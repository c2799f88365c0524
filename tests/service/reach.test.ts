import { createServer, type IncomingMessage } from 'node:http';
import type { AddressInfo } from 'node:net';
import { createClient } from '@pindro/contract';
import { expect } from 'chai';
import { type Workspace, workspace } from '../support/workspace.js';

/** Names of the test's own: nothing is ever asked of the system, and nothing leaves this machine. */
const NAMES: Record<string, string[]> = {
  'larch.example': ['127.0.0.1'],
  'metadata.example': ['169.254.169.254'],
  'office.example': ['10.1.2.3'],
  'both.example': ['127.0.0.1', '169.254.1.1'],
};
const asked: string[] = [];
const resolve = async (host: string) => {
  asked.push(host);
  const known = NAMES[host];
  if (!known) throw Object.assign(new Error(`getaddrinfo ENOTFOUND ${host}`), { code: 'ENOTFOUND' });
  return known;
};

describe('where requests may go', () => {
  let house: Workspace;
  let port: number;
  const seen: IncomingMessage[] = [];
  const server = createServer((request, response) => {
    seen.push(request);
    const to = /^\/to\?(.*)$/.exec(request.url!)?.[1];
    if (to) response.writeHead(302, { location: decodeURIComponent(to) }).end();
    else response.setHeader('content-type', 'application/json').end('{"ok":"yes"}');
  });
  before(async () => {
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    port = (server.address() as AddressInfo).port;
    house = await workspace({ resolve });
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: get\ninput: { type: object, properties: { url: { type: string } } }\nsteps:\n  get: { kind: http, with: { url: "${ input.url }", timeout: 5s } }\nresult: "${ steps.get.body.ok }"\n'.replace(
        ', timeout: 5s',
        '',
      ),
    );
  });
  after(async () => {
    await house.close();
    server.close();
  });
  const get = async (url: string, of = house) => {
    const { state, error } = await of.api.runFlow({ name: 'get', body: { input: { url } } });
    return error ? `${error.code}: ${error.message}` : state;
  };

  it('names are resolved once, and the connection goes to what they were resolved to', async () => {
    expect(await get(`http://larch.example:${port}/`)).to.equal('done');
    expect(seen.at(-1)!.headers.host).to.equal(`larch.example:${port}`);
    expect(await get('http://nobody.example/')).to.match(/address_unreachable: .* host name cannot be resolved/);
    expect(asked).to.include.members(['larch.example', 'nobody.example']);
  });

  it('link-local and metadata addresses are never reached, by whatever name or notation', async () => {
    const before = seen.length;
    for (const url of [
      'http://169.254.169.254/latest/',
      'http://metadata.example/',
      'http://both.example/',
      'http://[fe80::1]/',
      'http://[::ffff:169.254.169.254]/',
      'http://[fd00:ec2::254]/',
      'http://2852039166/',
      'http://0xa9fea9fe/',
      'http://224.0.0.1/',
      'http://255.255.255.255/',
    ])
      expect(await get(url), url).to.match(/^address_forbidden: .* are not allowed/);
    expect(seen.length).to.equal(before);
  });

  it('the service itself is never reached, and its endpoints by name', async () => {
    const own = new URL(house.service.url);
    for (const host of ['127.0.0.1', 'localhost', '[::1]', '127.0.0.2', '0.0.0.0', 'larch.example']) {
      NAMES.localhost = ['127.0.0.1'];
      expect(await get(`http://${host}:${own.port}/api/v1/status`), host).to.match(
        /address_forbidden: .*Pindro itself/,
      );
    }
    expect(await get(`${house.service.url}/mcp/main`)).to.match(/own endpoint "main".*endpoint: main/);
    const refused = await house.api
      .attachServer({ body: { name: 'own', url: `${house.service.url}/mcp/main` } })
      .catch((error: { problem: { code: string } }) => error.problem.code);
    expect(refused).to.equal('address_forbidden');
  });

  it('redirects are held against the same rules', async () => {
    const to = (url: string) => `http://127.0.0.1:${port}/to?${encodeURIComponent(url)}`;
    expect(await get(to(`http://larch.example:${port}/there`))).to.equal('done');
    expect(await get(to('http://169.254.169.254/'))).to.contain('address_forbidden');
    expect(await get(to(`${house.service.url}/api/v1/keys`))).to.contain('address_forbidden');
    expect(await get(to('file:///etc/passwd'))).to.match(/^address_/);
  });

  /** A workspace that others could reach, asked through this machine's own address. */
  const elsewhere = async (reach: string[] = []): Promise<Workspace> => {
    const open = await workspace({ resolve, host: '0.0.0.0', reach });
    const url = open.service.url.replace('0.0.0.0', '127.0.0.1');
    return { ...open, api: createClient({ url, key: open.apiKey }) };
  };

  it('private networks are asked for by name where others reach the workspace', async () => {
    const open = await elsewhere();
    open.service.flows.drafts.save(house.service.flows.drafts.get('get').text);
    expect(await get(`http://127.0.0.1:${port}/`, open)).to.match(/address_forbidden: .*--reach 127\.0\.0\.1/);
    expect(await get(`http://larch.example:${port}/`, open)).to.match(/private network/);
    expect(await get('http://office.example/', open)).to.match(/office\.example.*10\.1\.2\.3.*private network/);
    await open.close();
    for (const reach of [['127.0.0.0/8'], ['larch.example'], ['127.0.0.1']]) {
      const named = await elsewhere(reach);
      named.service.flows.drafts.save(house.service.flows.drafts.get('get').text);
      expect(await get(`http://larch.example:${port}/`, named), reach[0]).to.equal('done');
      expect(await get('http://metadata.example/', named), reach[0]).to.contain('address_forbidden');
      await named.close();
    }
  });
});

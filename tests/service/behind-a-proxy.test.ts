import { createHmac } from 'node:crypto';
import { readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { createClient } from '@pindro/contract';
import { expect } from 'chai';
import { startDemo } from '../support/process.js';
import { discard, furnish, temporary, type Workspace, workspace } from '../support/workspace.js';

/** What a proxy in front adds; the test speaks as one, from an address that is trusted. */
const through = (client: string, more: object = {}) => ({
  host: 'huts.example',
  'x-forwarded-for': client,
  'x-forwarded-proto': 'https',
  ...more,
});

describe('the door behind a proxy', () => {
  let house: Workspace;
  let url: string;
  let keys: { ines: string; tobias: string };
  before(async () => {
    const port = 20_000 + Math.floor(Math.random() * 20_000);
    house = await workspace({ port, publicUrl: 'https://huts.example', trustedProxies: ['loopback'] });
    url = `http://127.0.0.1:${port}`;
    keys = furnish(house.service);
  });
  after(() => house.close());
  const list = (key: string, headers: object) =>
    fetch(`${url}/mcp/huts`, {
      method: 'POST',
      headers: { authorization: `Bearer ${key}`, 'content-type': 'application/json', ...headers },
      body: '{"jsonrpc":"2.0","id":1,"method":"tools/list"}',
    });

  it('counts wrong keys by who sent them, and lets a right one in beside a hundred wrong ones', async () => {
    const guesses: number[] = [];
    for (let turn = 0; turn < 100; turn++) {
      guesses.push((await list(`pindro_guess${turn}`, through('203.0.113.7'))).status);
      expect((await list(keys.ines, through(turn % 2 ? '203.0.113.7' : '198.51.100.4'))).status).to.equal(200);
    }
    expect(guesses.filter((status) => status === 401)).to.have.length(20);
    expect(guesses.filter((status) => status === 429)).to.have.length(80);
    // Somebody else behind the same proxy is told what is wrong.
    expect((await list('pindro_mistyped', through('198.51.100.4'))).status).to.equal(401);
    const api = (key: string) =>
      fetch(`${url}/api/v1/status`, {
        headers: { authorization: `Bearer ${key}`, ...through('203.0.113.7') },
      });
    expect((await api('pindro_guess')).status).to.equal(429);
    expect((await api(house.apiKey)).status).to.equal(200);
  });

  it('sends cookies over TLS alone, says so to browsers, and keeps nothing', async () => {
    const link = new URL(house.service.createSignInLink());
    expect(link.origin).to.equal('https://huts.example');
    const headers = through('203.0.113.7');
    const signedIn = await fetch(url + link.pathname + link.search, { headers, redirect: 'manual' });
    expect(signedIn.headers.get('set-cookie')).to.contain('Secure').and.contain('HttpOnly');
    for (const path of ['/api/v1/openapi.json', '/mcp/huts', '/hooks/none', '/api/v1/status', '/nothing']) {
      const answer = await fetch(url + path, { headers });
      expect(answer.headers.get('strict-transport-security'), path).to.equal('max-age=31536000');
      expect(answer.headers.get('x-content-type-options'), path).to.equal('nosniff');
      expect(answer.headers.get('cache-control'), path).to.equal('no-store');
    }
  });

  it('takes a page from another port, scheme or host for a stranger’s', async () => {
    const from = (origin: string) =>
      fetch(`${url}/api/v1/status`, {
        headers: { authorization: `Bearer ${house.apiKey}`, ...through('203.0.113.7', { origin }) },
      }).then(async (answer) => (answer.ok ? 'ok' : ((await answer.json()) as { code: string }).code));
    expect(await from('https://huts.example')).to.equal('ok');
    for (const origin of ['https://huts.example:8443', 'http://huts.example', 'https://evil.example', 'null'])
      expect(await from(origin), origin).to.equal('origin_refused');
    const plain = await workspace();
    const own = (origin: string) =>
      fetch(`${plain.service.url}/api/v1/status`, {
        headers: { authorization: `Bearer ${plain.apiKey}`, origin },
      }).then((answer) => answer.status);
    expect(await own(plain.service.url)).to.equal(200);
    for (const origin of [plain.service.url.replace('http:', 'https:'), 'http://127.0.0.1:1', 'http://localhost'])
      expect(await own(origin), origin).to.equal(403);
    await plain.close();
  });

  it('shows no session id that a client presents', async () => {
    const post = (body: object, session?: string) =>
      fetch(`${url}/mcp/huts`, {
        method: 'POST',
        headers: {
          authorization: `Bearer ${keys.ines}`,
          'content-type': 'application/json',
          ...through('203.0.113.7'),
          ...(session && { 'mcp-session-id': session }),
        },
        body: JSON.stringify({ jsonrpc: '2.0', ...body }),
      });
    const params = { protocolVersion: '2025-06-18', capabilities: {}, clientInfo: { name: 'raw', version: '1' } };
    const session = (await post({ id: 1, method: 'initialize', params })).headers.get('mcp-session-id')!;
    const args = { hut: 'larch', night: '2027-02-14', party: 1 };
    await post({ id: 2, method: 'tools/call', params: { name: 'reserve_bunks', arguments: args } }, session);
    const api = async (path: string) =>
      fetch(`${url}/api/v1${path}`, {
        headers: { authorization: `Bearer ${house.apiKey}`, ...through('203.0.113.7') },
      }).then((answer) => answer.text());
    const runs = await api('/runs');
    expect(runs).to.contain('reserve-bunks').and.not.contain(session);
    expect(await api('/endpoints/huts')).to.not.contain(session);
    const shown = (JSON.parse(runs) as { items: { id: string; session: string }[] }).items[0]!;
    expect(await api(`/runs?session=${shown.session}`)).to.contain(shown.id);
  });

  it('takes of a signed hook only what is signed, and each message once', async () => {
    const secret = 'a-secret-for-signing';
    const entry = { flow: 'reserve-bunks', path: 'signed', settings: { kind: 'hook', guard: 'signature' }, secret };
    house.service.entries.add({ ...entry, on: true } as never);
    const send = async (id: string, body: object, query = '') => {
      const text = JSON.stringify(body);
      const timestamp = String(Math.floor(Date.now() / 1000));
      const signed = createHmac('sha256', secret).update(`${id}.${timestamp}.${text}`).digest('base64');
      const answer = await fetch(`${url}/hooks/signed${query}`, {
        method: 'POST',
        headers: {
          ...through('203.0.113.7'),
          'content-type': 'application/json',
          'webhook-id': id,
          'webhook-timestamp': timestamp,
          'webhook-signature': `v1,${signed}`,
        },
        body: text,
      });
      const told = (await answer.json()) as { code?: string; party?: number };
      return told.code ?? told.party;
    };
    const booking = { hut: 'larch', night: '2027-03-01', party: 2 };
    expect(await send('m1', { hut: 'larch', night: '2027-03-01' }, '?party=3')).to.equal('signature_refused');
    expect(await send('m1', booking)).to.equal(2);
    expect(await send('m1', booking)).to.equal('message_repeated');
    const together = await Promise.all(Array.from({ length: 10 }, () => send('m2', booking)));
    expect(together.filter((one) => one === 2)).to.have.length(1);
    expect(house.service.tables.definitions.summary('bookings').rows).to.equal(3);
  });
});

describe('what the demo writes', () => {
  it('is for its user alone, files and directories', async function () {
    this.timeout(60_000);
    const data = join(temporary(), 'demo');
    const demo = await startDemo(data);
    const api = createClient({ url: demo.contract.url, key: demo.contract.apiKey });
    expect((await api.status()).name).to.equal('pindro');
    const paths = ['.', ...readdirSync(data, { recursive: true }).map(String)];
    for (const path of paths) {
      const { mode } = statSync(join(data, path));
      expect((mode & 0o077).toString(8), path).to.equal('0');
    }
    await demo.stop();
    discard(join(data, '..'));
  });
});

import { connect as connectSocket } from 'node:net';
import { expect } from 'chai';
import { patience } from '../support/patience.js';
import { furnish, LIFT_KEY, startTestLift, type Workspace, workspace } from '../support/workspace.js';

const INITIALIZE = {
  jsonrpc: '2.0',
  id: 1,
  method: 'initialize',
  params: { protocolVersion: '2025-11-25', capabilities: {}, clientInfo: { name: 'raw', version: '1' } },
};
const LIST = { jsonrpc: '2.0', id: 2, method: 'tools/list' };

describe('an endpoint, for whoever gets the protocol wrong', () => {
  let house: Workspace;
  let keys: { ines: string; tobias: string };
  before(async () => {
    house = await workspace({ bodyLimit: 64 * 1024 });
    keys = furnish(house.service);
  });
  after(() => house.close());

  interface Answer {
    status: number;
    session: string | null;
    body: {
      error?: { code: number; message: string; data?: { code: string } };
      result?: Record<string, unknown>;
      id?: unknown;
    };
  }
  const send = async (
    body: unknown,
    {
      headers = {},
      key = keys.ines,
      method = 'POST',
      endpoint = 'huts',
    }: { headers?: Record<string, string>; key?: string; method?: string; endpoint?: string } = {},
  ): Promise<Answer> => {
    const response = await fetch(`${house.service.url}/mcp/${endpoint}`, {
      method,
      headers: {
        'content-type': 'application/json',
        accept: 'application/json, text/event-stream',
        ...(key && { authorization: `Bearer ${key}` }),
        ...headers,
      },
      ...(method === 'POST' && { body: typeof body === 'string' ? body : JSON.stringify(body) }),
    });
    const text = await response.text();
    return {
      status: response.status,
      session: response.headers.get('mcp-session-id'),
      body: text.startsWith('{') ? JSON.parse(text) : {},
    };
  };
  const begin = async (key = keys.ines) => {
    const { session } = await send(INITIALIZE, { key });
    await send(
      { jsonrpc: '2.0', method: 'notifications/initialized' },
      { key, headers: { 'mcp-session-id': session! } },
    );
    return session!;
  };
  const inSession = async (body: unknown, session: string, key = keys.ines, headers = {}) =>
    send(body, { key, headers: { 'mcp-session-id': session, ...headers } });

  it('negotiates versions back to the oldest the SDK knows', async () => {
    for (const [asked, given] of [
      ['2025-11-25', '2025-11-25'],
      ['2024-11-05', '2024-11-05'],
      ['1999-01-01', '2025-11-25'],
    ]) {
      const { body } = await send({ ...INITIALIZE, params: { ...INITIALIZE.params, protocolVersion: asked } });
      expect(body.result).to.include({ protocolVersion: given });
    }
  });

  it('answers plain requests in JSON', async () => {
    const session = await begin();
    const { status, body } = await inSession(LIST, session);
    expect(status).to.equal(200);
    expect(body.id).to.equal(2);
    expect(body.result!.tools).to.have.length(1);
  });

  const malformed: [string, unknown, number, number][] = [
    ['the response is not JSON', '{"jsonrpc": ', 400, -32700],
    ['a batch', [LIST], 400, -32600],
    ['an empty batch', [], 400, -32600],
    ['a text', '"hello"', 400, -32600],
    ['null', 'null', 400, -32600],
    ['another version of JSON-RPC', { ...LIST, jsonrpc: '1.0' }, 400, -32600],
    ['an id that is null', { ...LIST, id: null }, 400, -32600],
    ['an id that is a list', { ...LIST, id: [1] }, 400, -32600],
    ['a method that is a number', { ...LIST, method: 5 }, 400, -32600],
    ['params that are a list', { ...LIST, params: [] }, 400, -32600],
    ['nothing of a message', {}, 400, -32600],
    ['a body over the limit', JSON.stringify({ ...LIST, params: { x: 'x'.repeat(70_000) } }), 413, -32600],
  ];
  for (const [what, body, status, code] of malformed) {
    it(`refuses ${what} with a located error`, async () => {
      const answer = await inSession(body, await begin());
      expect(answer.status).to.equal(status);
      expect(answer.body.error?.code).to.equal(code);
      expect(answer.body.error?.message).to.be.a('string').and.not.equal('');
    });
  }

  it('answers an unknown method, and takes the id zero and ids of text', async () => {
    const session = await begin();
    expect((await inSession({ jsonrpc: '2.0', id: 0, method: 'no/such' }, session)).body).to.deep.include({ id: 0 });
    expect((await inSession({ jsonrpc: '2.0', id: 'a', method: 'no/such' }, session)).body.error?.code).to.equal(
      -32601,
    );
    expect((await inSession({ jsonrpc: '2.0', id: '', method: 'ping' }, session)).body.result).to.deep.equal({});
  });

  it('says what is missing when the session, the key or the word Bearer is', async () => {
    expect((await send('', { method: 'DELETE' })).body.error?.message).to.contain('Mcp-Session-Id header is missing');
    expect((await inSession(LIST, 'demo')).status).to.equal(404);
    expect(await send(INITIALIZE, { key: '' })).to.have.nested.property('body.error.data.code', 'not_signed_in');
    expect(await send(INITIALIZE, { key: '', headers: { authorization: keys.ines } })).to.have.nested.property(
      'body.error.data.code',
      'key_without_bearer',
    );
    expect((await send(INITIALIZE, { key: 'pindro_unknown' })).status).to.equal(401);
    expect(await send(INITIALIZE, { endpoint: 'other' })).to.have.nested.property(
      'body.error.data.code',
      'not_allowed',
    );
    expect((await send(INITIALIZE, { headers: { 'content-type': 'text/plain' } })).status).to.equal(415);
  });

  it('answers a request without a session by itself', async () => {
    const { status, session, body } = await send(LIST);
    expect({ status, session }).to.deep.equal({ status: 200, session: null });
    expect(body.result!.tools).to.have.lengthOf(1);
  });

  it('keeps a session for the key that opened it', async () => {
    const session = await begin();
    expect((await inSession(LIST, session, keys.tobias)).status).to.equal(404);
    expect((await inSession(LIST, session)).status).to.equal(200);
  });

  it('refuses a second initialize, an unknown version header and a second stream', async () => {
    const session = await begin();
    expect((await inSession(INITIALIZE, session)).body.error?.message).to.contain('initialized');
    expect(
      (await inSession(LIST, session, keys.ines, { 'mcp-protocol-version': '1999-01-01' })).body.error?.message,
    ).to.contain('not supported');
    const headers = { authorization: `Bearer ${keys.ines}`, accept: 'text/event-stream', 'mcp-session-id': session };
    const first = await fetch(`${house.service.url}/mcp/huts`, { headers });
    expect(first.headers.get('content-type')).to.contain('text/event-stream');
    expect((await fetch(`${house.service.url}/mcp/huts`, { headers })).status).to.equal(409);
    await first.body!.cancel();
  });

  it('refuses an id that is still being answered', async () => {
    const lift = await startTestLift({ delay: 200 });
    await house.service.servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
    house.service.endpoints.save(
      'format: pindro/endpoint@1\nname: slow\ntools: { status: { server: lift, tool: lift_status } }\n',
    );
    const { key } = house.service.keys.issue({
      name: 'slow',
      attributes: {},
      stage: 'live',
      endpoints: ['slow'],
      manage: false,
    });
    const { session } = await send(INITIALIZE, { key, endpoint: 'slow' });
    const call = { jsonrpc: '2.0', id: 9, method: 'tools/call', params: { name: 'status', arguments: {} } };
    const first = send(call, { key, endpoint: 'slow', headers: { 'mcp-session-id': session! } });
    await new Promise((resolve) => setTimeout(resolve, 50));
    const second = await send(call, { key, endpoint: 'slow', headers: { 'mcp-session-id': session! } });
    expect(second.body.error?.message).to.contain('still in progress');
    expect((await first).body.result).to.have.nested.property('structuredContent.running', true);
    await lift.close();
  });

  it('lets anybody call an open endpoint, as long as only this machine can reach it', async () => {
    house.service.endpoints.save(
      'format: pindro/endpoint@1\nname: lobby\naccess: open\ntools: { reserve: { flow: reserve-bunks } }\n',
    );
    expect((await send(INITIALIZE, { key: '', endpoint: 'lobby' })).status).to.equal(200);
    expect((await send(INITIALIZE, { key: 'pindro_wrong', endpoint: 'lobby' })).status).to.equal(401);
    const exposed = await workspace({ host: '0.0.0.0' });
    furnish(exposed.service);
    exposed.service.endpoints.save(
      'format: pindro/endpoint@1\nname: lobby\naccess: open\ntools: { reserve: { flow: reserve-bunks } }\n',
    );
    const { port } = new URL(exposed.service.url);
    const { status } = await fetch(`http://127.0.0.1:${port}/mcp/lobby`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(INITIALIZE),
    });
    expect(status).to.equal(401);
    await exposed.close();
  });

  it('stops what a client cancels', async () => {
    const lift = await startTestLift({ delay: 3000 });
    await house.service.servers.attach({
      name: 'slow-lift',
      url: lift.url,
      credential: null,
      secret: LIFT_KEY,
      rules: {},
    });
    house.service.endpoints.save(
      'format: pindro/endpoint@1\nname: slower\ntools: { status: { server: slow-lift, tool: lift_status } }\n',
    );
    const { key } = house.service.keys.issue({
      name: 'slower',
      attributes: {},
      stage: 'live',
      endpoints: ['slower'],
      manage: false,
    });
    const { session } = await send(INITIALIZE, { key, endpoint: 'slower' });
    const headers = { 'mcp-session-id': session! };
    const call = send(
      { jsonrpc: '2.0', id: 4, method: 'tools/call', params: { name: 'status', arguments: {} } },
      { key, endpoint: 'slower', headers },
    );
    await new Promise((resolve) => setTimeout(resolve, 150));
    await send(
      { jsonrpc: '2.0', method: 'notifications/cancelled', params: { requestId: 4 } },
      { key, endpoint: 'slower', headers },
    );
    expect((await call).body).to.deep.equal({});
    const { items } = await house.api.listRuns({ query: { flow: 'slow-lift.lift_status' } });
    expect(items.map((run) => run.state)).to.deep.equal(['cancelled']);
    await lift.close();
  });

  it('ends a session on DELETE and refuses other methods', async () => {
    const session = await begin();
    expect((await send('', { method: 'DELETE', headers: { 'mcp-session-id': session } })).status).to.equal(204);
    expect((await inSession(LIST, session)).status).to.equal(404);
    expect((await send('', { method: 'PATCH' })).status).to.equal(405);
  });

  it('outlives a client that vanishes in the middle', async () => {
    const session = await begin();
    const { hostname, port } = new URL(house.service.url);
    const body = JSON.stringify({
      jsonrpc: '2.0',
      id: 5,
      method: 'tools/call',
      params: { name: 'reserve_bunks', arguments: { hut: 'kestrel', night: '2027-06-01', party: 1 } },
    });
    await new Promise<void>((resolve) => {
      const socket = connectSocket(Number(port), hostname, () => {
        socket.write(
          `POST /mcp/huts HTTP/1.1\r\nHost: ${hostname}:${port}\r\nAuthorization: Bearer ${keys.ines}\r\nContent-Type: application/json\r\nAccept: application/json, text/event-stream\r\nMcp-Session-Id: ${session}\r\nContent-Length: ${body.length}\r\n\r\n${body}`,
          () => {
            setTimeout(() => {
              socket.destroy();
              resolve();
            }, 5);
          },
        );
      });
    });
    await new Promise((resolve) => setTimeout(resolve, 150));
    expect((await inSession(LIST, session)).status).to.equal(200);
    const { items } = await house.api.listRuns({ query: { limit: 1 } });
    expect(items[0]).to.include({ state: 'done' });
  });

  it('answers every malformed request within two seconds', async () => {
    const session = await begin();
    const start = performance.now();
    await Promise.all(malformed.map(([, body]) => inSession(body, session)));
    expect(performance.now() - start).to.be.below(patience(2000));
  });
});

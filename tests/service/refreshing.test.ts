import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { json } from 'node:stream/consumers';
import type { ProblemError } from '@pindro/contract';
import { startFaultyServer } from '@pindro/standins';
import { expect } from 'chai';
import { refusal } from '../support/refusal.js';
import { until, type Workspace, workspace } from '../support/workspace.js';

/** A server whose list takes a while; `tools` is what it says when it is asked. */
async function slowList(
  tools: () => string[],
  delay: number,
): Promise<{ server: Server; url: string; asked: () => number }> {
  let asked = 0;
  const server = createServer(async (request, response) => {
    if (request.method !== 'POST') return void response.writeHead(405).end();
    const { id, method } = (await json(request)) as { id?: number; method: string };
    if (id === undefined) return void response.writeHead(202).end();
    const now = tools().map((name) => ({ name, inputSchema: { type: 'object' } }));
    if (method === 'tools/list' && asked++ > 0) await new Promise((resolve) => setTimeout(resolve, delay));
    const info = {
      protocolVersion: '2025-06-18',
      capabilities: { tools: {} },
      serverInfo: { name: 'a', version: '1' },
    };
    response.setHeader('content-type', 'application/json');
    response.end(JSON.stringify({ jsonrpc: '2.0', id, result: method === 'initialize' ? info : { tools: now } }));
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return { server, url: `http://127.0.0.1:${(server.address() as AddressInfo).port}/mcp`, asked: () => asked };
}

describe('reading a tool list anew', function () {
  this.timeout(20_000);
  let house: Workspace;
  before(async () => {
    house = await workspace();
  });
  after(() => house.close());

  it('is done once for all who ask at the same time', async () => {
    const one = await slowList(() => ['weigh'], 300);
    await house.api.attachServer({ body: { name: 'once', url: one.url } });
    await until(async () => (await house.api.getServer({ name: 'once' })).state === 'ready', 'it to be there');
    await house.api.refreshServer({ name: 'once' });
    const before = one.asked();
    await Promise.all(Array.from({ length: 5 }, () => house.api.refreshServer({ name: 'once' })));
    expect(one.asked() - before).to.equal(1);
    one.server.closeAllConnections();
    one.server.close();
  });

  it('does not bring the list of where a server was to where it is now', async () => {
    const [old, now] = await Promise.all([slowList(() => ['old'], 1000), slowList(() => ['now'], 0)]);
    await house.api.attachServer({ body: { name: 'moved', url: old.url } });
    const reading = house.api.refreshServer({ name: 'moved' }).catch(() => null);
    await new Promise((resolve) => setTimeout(resolve, 100));
    await house.api.updateServer({ name: 'moved', body: { url: now.url } });
    await reading;
    await house.api.refreshServer({ name: 'moved' });
    const { toolList, where } = await house.api.getServer({ name: 'moved' });
    expect([where, toolList.map(({ name }) => name)]).to.deep.equal([now.url, ['now']]);
    for (const { server } of [old, now]) {
      server.closeAllConnections();
      server.close();
    }
  });

  it('leaves everything as it was where a change fails at its end', async () => {
    const [old, next] = await Promise.all([slowList(() => ['old'], 0), slowList(() => ['next'], 500)]);
    await house.api.attachServer({ body: { name: 'stays', url: old.url } });
    await house.api.attachServer({ body: { name: 'next', url: next.url } });
    await house.api.refreshServer({ name: 'next' });
    const before = next.asked();
    await house.api.addCredential({ body: { name: 'short-lived', kind: 'bearer', secret: 'larch-hut-5' } });
    const body = { url: next.url, credential: 'short-lived' };
    const change = refusal(house.api.updateServer({ name: 'stays', body }));
    await until(async () => next.asked() > before, 'the next server to be asked');
    // Nothing holds it yet, so it may be removed while the server is being asked.
    await house.api.removeCredential({ name: 'short-lived', query: {} });
    expect((await change).code).to.equal('not_found');
    const { where, toolList, credential } = await house.api.getServer({ name: 'stays' });
    expect([where, credential, toolList.map(({ name }) => name)]).to.deep.equal([old.url, null, ['old']]);
    expect((await house.api.serverChanges({ name: 'stays' })).items).to.deep.equal([]);
    for (const { server } of [old, next]) {
      server.closeAllConnections();
      server.close();
    }
  });
});

describe('a server that is changed or taken out while it is called', function () {
  this.timeout(20_000);

  it('what is under way goes on to its end', async () => {
    const house = await workspace();
    const faulty = await startFaultyServer();
    const call = (name: string) =>
      house.api.callServerTool({ name, tool: 'good', body: { arguments: {} } }).then(
        ({ text }) => text,
        (error: ProblemError) => error.problem.code,
      );
    await house.api.attachServer({ body: { name: 'there', url: faulty.url } });
    for (const act of [
      () => house.api.updateServer({ name: 'there', body: { watch: 'hold', skipTest: true } }),
      () => house.api.updateServer({ name: 'there', body: { limits: { call: '9s' }, skipTest: true } }),
      () => house.api.updateServer({ name: 'there', body: { url: faulty.older } }),
      () => house.api.renameServer({ name: 'there', body: { to: 'elsewhere' } }),
      () => house.api.removeServer({ name: 'elsewhere', query: {} }),
    ]) {
      const name = (await house.api.listServers({ query: {} })).items[0]!.name;
      const calls = [call(name), call(name)];
      await new Promise((resolve) => setTimeout(resolve, 200));
      await act();
      expect(await Promise.all(calls), String(act)).to.deep.equal(['all is well', 'all is well']);
    }
    await house.close();
    await faulty.close();
  });
});

/* Tool servers: a call through Pindro's own client beside the same call with the bare client of the SDK, and many of them. */
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { SSEClientTransport } from '@modelcontextprotocol/sdk/client/sse.js';
import { StdioClientTransport } from '@modelcontextprotocol/sdk/client/stdio.js';
import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import { createClient } from '../packages/contract/dist/index.js';
import { startService } from '../packages/service/dist/index.js';
import { PROGRAMS, startLift } from '../packages/standins/dist/index.js';
import { withService } from './service.mjs';

const KEY = 'ropeway-key-for-the-bench';
const ROUNDS = 5;
const CALLS = 200;
const middle = (values) => values.toSorted((a, b) => a - b)[Math.floor(values.length / 2)];

/** How long a call takes, in milliseconds, on both sides in turns. */
async function inTurns(sides, say) {
  const times = Object.fromEntries(Object.keys(sides).map((name) => [name, []]));
  for (let round = 0; round <= ROUNDS; round++)
    for (const [name, call] of Object.entries(sides)) {
      const begun = performance.now();
      for (let turn = 0; turn < CALLS; turn++) await call();
      // The first round is for warming up.
      if (round > 0) times[name].push((performance.now() - begun) / CALLS);
    }
  for (const [name, own] of Object.entries(times)) say(`${name.padEnd(7)} ${middle(own).toFixed(2)} ms a call`);
  return Object.fromEntries(Object.entries(times).map(([name, own]) => [name, middle(own)]));
}

const WAYS = {
  http: {
    at: ({ lift }) => ({ url: lift.url, secret: KEY }),
    bare: ({ lift }) => new StreamableHTTPClientTransport(new URL(lift.url), { requestInit: { headers: along } }),
    tool: 'lift_status',
  },
  sse: {
    at: ({ lift }) => ({ url: lift.older, secret: KEY }),
    bare: ({ lift }) => new SSEClientTransport(new URL(lift.older), { requestInit: { headers: along } }),
    tool: 'lift_status',
  },
  stdio: {
    at: () => ({ url: '', program: () => ({ command: process.execPath, args: [PROGRAMS.trails], env: {} }) }),
    bare: () => new StdioClientTransport({ command: process.execPath, args: [PROGRAMS.trails], stderr: 'ignore' }),
    tool: 'list_trails',
  },
};
const along = { authorization: `Bearer ${KEY}` };

export const attachCall = (speaks) => async (say) => {
  const data = mkdtempSync(join(tmpdir(), 'pindro-bench-'));
  const lift = await startLift({ key: KEY });
  const service = await startService({ data, port: 0, logLevel: 'silent' });
  const { at, bare, tool } = WAYS[speaks];
  const client = new Client({ name: 'bench', version: '1' });
  try {
    await service.servers.attach({ name: 'there', rules: {}, ...at({ lift }) });
    await client.connect(bare({ lift }));
    const options = { signal: new AbortController().signal, traceparent: '', idempotencyKey: '/bench' };
    const { pindro, sdk } = await inTurns(
      {
        pindro: () => service.servers.call('there', tool, {}, options),
        sdk: () => client.callTool({ name: tool, arguments: {} }),
      },
      say,
    );
    return {
      ...{ name: `attach-call-${speaks}`, unit: 'ms', ratio: sdk / pindro },
      ...{ ours: Number(pindro.toFixed(2)), reference: Number(sdk.toFixed(2)) },
    };
  } finally {
    await client.close();
    await service.close();
    await lift.close();
    rmSync(data, { recursive: true, force: true });
  }
};

const SERVERS = 50;
const TOOLS = 40;
const tools = (server) =>
  Array.from({ length: TOOLS }, (_, index) => ({
    name: `tool_${server}_${index}`,
    description: `Does the work number ${index} of server ${server}, for huts and for whoever keeps them.`,
    inputSchema: { type: 'object', properties: { hut: { type: 'string' }, day: { type: 'string', format: 'date' } } },
  }));
const fileOf = (server, base) =>
  JSON.stringify({
    ...{ format: 'pindro/server@1', name: `server-${server}`, url: `${base}/mcp/${server}` },
    tools: tools(server),
  });
const files = (base) =>
  Object.fromEntries(
    Array.from({ length: SERVERS }, (_, server) => [`servers/server-${server}.yaml`, fileOf(server, base)]),
  );

/** Servers that are not there must not keep a service from being ready. */
export async function attach50Start(say) {
  const data = mkdtempSync(join(tmpdir(), 'pindro-bench-'));
  const settings = { data, port: 0, logLevel: 'silent' };
  try {
    const first = await startService(settings);
    const { key } = first.keys.issue({
      name: 'bench',
      caller: 'owner',
      attributes: {},
      stage: 'draft',
      endpoints: [],
      manage: true,
    });
    await createClient({ url: first.url, key }).importWorkspace({ body: { files: files('http://127.0.0.1:9') } });
    await first.close();
    const begun = performance.now();
    const again = await startService(settings);
    const took = Math.round(performance.now() - begun);
    const count = again.servers.list().reduce((sum, one) => sum + one.tools, 0);
    await again.close();
    say(`${SERVERS} servers, ${count} tools, ready in ${took} ms`);
    return { name: 'attach-50-start', ours: took, reference: 3000, unit: 'ms', ratio: 3000 / took };
  } finally {
    rmSync(data, { recursive: true, force: true });
  }
}

/** All lists of many servers read anew. */
export const attach50Refresh = (say) =>
  withService(async ({ url, apiKey }) => {
    const { base, close } = await manyServers();
    try {
      const api = createClient({ url, key: apiKey });
      await api.importWorkspace({ body: { files: files(base) } });
      const names = (await api.listServers()).items.map(({ name }) => name);
      const refresh = () => Promise.all(names.map((name) => api.refreshServer({ name })));
      await refresh();
      const times = [];
      for (let round = 0; round < 3; round++) {
        const begun = performance.now();
        await refresh();
        times.push(performance.now() - begun);
      }
      const took = Math.round(middle(times));
      say(`${names.length} servers read anew in ${took} ms`);
      return { name: 'attach-50-refresh', ours: took, reference: 2000, unit: 'ms', ratio: 2000 / took };
    } finally {
      await close();
    }
  });

/** As many small servers at one port, each at a path of its own. */
async function manyServers() {
  const server = createServer(async (request, response) => {
    if (request.method !== 'POST') return void response.writeHead(405).end();
    let body = '';
    for await (const piece of request) body += piece;
    const { id, method, params } = JSON.parse(body);
    if (id === undefined) return void response.writeHead(202).end();
    const result =
      method === 'initialize'
        ? {
            protocolVersion: params.protocolVersion,
            capabilities: { tools: {} },
            serverInfo: { name: 'Many', version: '1' },
          }
        : { tools: tools(Number(request.url.split('/').at(-1))) };
    response.writeHead(200, { 'content-type': 'application/json' }).end(JSON.stringify({ jsonrpc: '2.0', id, result }));
  });
  await new Promise((resolve) => server.listen(0, '127.0.0.1', resolve));
  return {
    base: `http://127.0.0.1:${server.address().port}`,
    close: () => {
      server.closeAllConnections();
      return new Promise((resolve) => server.close(resolve));
    },
  };
}

export { fileOf as serverFile, SERVERS };

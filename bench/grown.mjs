/*
 * The longest block of the event loop of a service that has grown: 200,000 runs, 300 flows, 60 tool servers and 5,000
 * callers, in a minute in which nobody asks anything and in a busy one.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { startService } from '../packages/service/dist/index.js';
import { openDatabase, SqliteJournal } from '../packages/service/dist/parts.js';
import { watched } from './loop.mjs';
import { startReady } from './process.mjs';
import { write } from './traces.mjs';

const BAR = 50;
const SIZE = { runs: 200_000, flows: 300, servers: 60, callers: 5000, days: 28 };
const MINUTE = 62_000;
const PINDRO = fileURLToPath(new URL('../packages/cli/bin/pindro.js', import.meta.url));
const pause = (milliseconds) => new Promise((resolve) => setTimeout(resolve, milliseconds));

const flow = (number) => `format: pindro/flow@1
name: flow-${number}
title: Flow ${number}
description: Counts the bunks of a hut.
input: { type: object, properties: { hut: { type: string } } }
steps:
${Array.from({ length: 12 }, (_, at) => `  s${at}: { kind: shape, ${at > 0 ? `after: [s${at - 1}], ` : ''}with: { value: "\${ ${at > 0 ? `steps.s${at - 1}` : 'input'} }" } }`).join('\n')}
result: "\${ steps.s11 }"
`;

/** What people set up, made by the service itself. @returns keys of callers */
async function build(data, serverUrl) {
  const service = await startService({ data, port: 0, logLevel: 'silent', timeZone: 'UTC' });
  const tools = [];
  for (let number = 0; number < SIZE.flows; number++) {
    service.flows.save(flow(number));
    service.flows.publish(`flow-${number}`);
    if (number < 40) tools.push(`  tool_${number}: { flow: flow-${number} }`);
  }
  service.endpoints.save(`format: pindro/endpoint@1\nname: huts\ntools:\n${tools.join('\n')}\n`);
  for (let number = 0; number < SIZE.servers; number++)
    await service.servers.attach({ name: `server-${number}`, url: serverUrl, rules: {}, skipTest: true });
  const keys = Array.from({ length: SIZE.callers }, (_, number) => {
    const caller = `caller-${number}`;
    return service.keys.issue({
      name: caller,
      caller,
      attributes: {},
      stage: 'live',
      endpoints: ['huts'],
      manage: false,
    }).key;
  });
  await service.close();
  return keys;
}

/** What happened: runs, and the sums of a month. */
function record(data, say) {
  const database = openDatabase(join(data, 'runs.db'), 'runs');
  const seal = { seal: (value) => JSON.stringify(value), unseal: (text) => JSON.parse(text) };
  const journal = new SqliteJournal(database, seal);
  const first = Date.now() - SIZE.days * 86_400_000;
  const step = (SIZE.days * 86_400_000) / SIZE.runs;
  for (let index = 0; index < SIZE.runs; index++) {
    write(journal, first + index * step, SIZE.callers);
    if (index % 500 === 499) journal.flush();
    if (index % 50_000 === 49_999) say(`${index + 1} runs are written`);
  }
  journal.flush();
  const hour = Math.floor(Date.now() / 3_600_000);
  const histogram = JSON.stringify(Array.from({ length: 40 }, (_, at) => at % 3));
  const insert = database.driver.prepare('INSERT OR IGNORE INTO figures VALUES (?, ?, 9, 1, 0, 0, ?)');
  database.driver
    .transaction(() => {
      for (let back = 0; back < SIZE.days * 24; back++)
        for (let number = 0; number < SIZE.flows; number++)
          insert.run((hour - back) * 3_600_000, `flow:flow-${number}`, histogram);
    })
    .immediate();
  database.driver.close();
}

/** A tool server of one tool that answers at once. */
function toolServer() {
  const answer = {
    capabilities: { tools: {} },
    protocolVersion: '2025-11-25',
    serverInfo: { name: 'lift', version: '1' },
  };
  const tools = Array.from({ length: 20 }, (_, at) => ({
    name: `tool_${at}`,
    description: 'Reads how the cable lift is, and how much it carries today.',
    inputSchema: { type: 'object', properties: { hut: { type: 'string' } } },
  }));
  const server = createServer((request, response) => {
    let text = '';
    request.on('data', (piece) => (text += piece));
    request.on('end', () => {
      const { id, method } = text ? JSON.parse(text) : {};
      if (id === undefined) return void response.writeHead(request.method === 'POST' ? 202 : 405).end();
      const result = method === 'initialize' ? answer : { tools };
      response
        .writeHead(200, { 'content-type': 'application/json' })
        .end(JSON.stringify({ jsonrpc: '2.0', id, result }));
    });
  });
  return new Promise((resolve) =>
    server.listen(0, '127.0.0.1', () => resolve({ server, url: `http://127.0.0.1:${server.address().port}/mcp` })),
  );
}

export async function grown(say) {
  const data = mkdtempSync(join(tmpdir(), 'pindro-grown-'));
  const { server, url: serverUrl } = await toolServer();
  const loop = watched();
  try {
    const keys = await build(data, serverUrl);
    record(data, say);
    const service = await startReady([...loop.node, PINDRO, 'serve', '--json', '--port', '0', '--data', data]);
    const { url, apiKey } = service.ready;
    const longest = async (what) => {
      const took = await loop.longest(service.pid);
      say(`${what}: ${took.toFixed(1)} ms`);
      return took;
    };
    try {
      await pause(3000);
      await longest('at the start');
      await pause(MINUTE);
      const idle = await longest('an idle minute');
      const busy = await load(url, apiKey, keys, longest);
      const ours = Math.max(1, Math.round(Math.max(idle, busy)));
      return { name: 'grown', ours, reference: BAR, unit: 'ms', ratio: BAR / ours };
    } finally {
      await service.stop();
    }
  } finally {
    server.close();
    loop.close();
    rmSync(data, { recursive: true, force: true });
  }
}

/** Pages that people keep open, each asked for once in a while. */
const PAGES = [
  ...[
    '/flows',
    '/runs?limit=30',
    '/runs?state=failed',
    '/metrics/series?by=flow&hours=720',
    '/metrics/series?by=caller&hours=24',
  ],
  ...['/activity?hours=24', '/status', '/problems', '/servers', '/endpoints/huts', '/endpoints/huts/usage', '/keys'],
];

/** Calls of tools by many callers, and pages, for a minute. @returns the longest block */
async function load(url, apiKey, keys, longest) {
  const end = Date.now() + MINUTE;
  let worst = 0;
  let calls = 0;
  const call = async (number) => {
    const response = await fetch(`${url}/mcp/huts`, {
      method: 'POST',
      headers: {
        ...{ authorization: `Bearer ${keys[number % keys.length]}`, 'content-type': 'application/json' },
        ...{ accept: 'application/json, text/event-stream', 'mcp-protocol-version': '2025-11-25' },
      },
      body: JSON.stringify({
        ...{ jsonrpc: '2.0', id: number + 1, method: 'tools/call' },
        params: { name: `tool_${number % 40}`, arguments: { hut: 'larch' } },
      }),
    });
    await response.arrayBuffer();
    calls++;
  };
  const callers = Array.from({ length: 8 }, async (_, lane) => {
    for (let number = lane; Date.now() < end; number += 8) {
      await call(number);
      await pause(20);
    }
  });
  for (let at = 0; Date.now() < end; at++) {
    const path = PAGES[at % PAGES.length];
    const response = await fetch(`${url}/api/v1${path}`, { headers: { authorization: `Bearer ${apiKey}` } });
    const bytes = (await response.arrayBuffer()).byteLength;
    worst = Math.max(worst, await longest(`${path} (${response.status}, ${Math.round(bytes / 1024)} KiB)`));
    await pause(300);
  }
  await Promise.all(callers);
  worst = Math.max(worst, await longest(`a busy minute, ${calls} calls`));
  return worst;
}

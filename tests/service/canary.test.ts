import { readdirSync, readFileSync } from 'node:fs';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { expect } from 'chai';
import { type ScriptedModel, scriptedModel } from '../support/scripted-model.js';
import { callTool, connect, until, type Workspace, workspace } from '../support/workspace.js';

/** What must be found nowhere, in none of its forms. */
const CANARY = 'kestrel/key+"42"&ü-canary';
const PIN = 'pin-of-the-larch-hut';
const forms = (secret: string): string[] => {
  const base64 = Buffer.from(secret).toString('base64');
  const prefixed = Buffer.from(`ines:${secret}`).toString('base64');
  return [
    secret,
    encodeURIComponent(secret),
    encodeURIComponent(encodeURIComponent(secret)),
    JSON.stringify(secret).slice(1, -1),
    secret.replaceAll('&', '&amp;').replaceAll('"', '&quot;'),
    Buffer.from(secret).toString('hex'),
    base64,
    prefixed,
  ];
};
/** The same without what belongs to others: the ends of base64, where neighbours have a part. */
const cores = (secret: string) => {
  const all = forms(secret);
  const [base64, prefixed] = all.splice(-2);
  return [...all, base64!.slice(0, -4), prefixed!.slice(8, -4)];
};
const pieces = (secret: string) => forms(secret).join(' | ');

/** An outside service that gives back all it was told, in every form; a tool server that does the same. */
function echo(): Promise<{ url: string; seen: IncomingMessage['headers'][]; close(): Promise<void> }> {
  const seen: IncomingMessage['headers'][] = [];
  const listener = async (request: IncomingMessage, response: ServerResponse) => {
    seen.push(request.headers);
    let body = '';
    for await (const piece of request) body += piece;
    const key = Buffer.from(String(request.headers['x-key'] ?? request.headers.authorization ?? ''), 'latin1')
      .toString('utf8')
      .replace(/^Bearer /, '');
    if (request.url!.startsWith('/away')) {
      response.writeHead(307, { location: `http://localhost:${(server.address() as AddressInfo).port}/echo` }).end();
      return;
    }
    if (request.url!.startsWith('/fail'))
      return void response.writeHead(500).end(`no ${pieces(key)} ${'x'.repeat(1990)}${key}`);
    if (!request.url!.startsWith('/mcp')) return void response.end(JSON.stringify({ said: pieces(key), body }));
    if (request.method !== 'POST') return void response.writeHead(405).end();
    const message = JSON.parse(body) as { id?: number; method: string; params?: { name?: string } };
    if (message.id === undefined) return void response.writeHead(202).end();
    const tool = {
      name: 'echo',
      title: `Echo ${key}`,
      description: `Knows ${pieces(key)}`,
      inputSchema: { type: 'object', properties: { a: { type: 'string', description: `not ${key}`, default: key } } },
    };
    const answers: Record<string, object> = {
      initialize: {
        result: {
          protocolVersion: '2025-06-18',
          capabilities: { tools: {} },
          serverInfo: { name: `server ${key}`, version: '1' },
        },
      },
      'tools/list': { result: { tools: [tool, { ...tool, name: 'broken' }] } },
      'tools/call':
        message.params?.name === 'broken'
          ? { error: { code: -32000, message: `will not take ${pieces(key)}`, data: { key } } }
          : {
              result: { content: [{ type: 'text', text: pieces(key) }], structuredContent: { key, all: pieces(key) } },
            },
    };
    response.writeHead(200, { 'content-type': 'application/json' });
    response.end(JSON.stringify({ jsonrpc: '2.0', id: message.id, ...answers[message.method] }));
  };
  const server: Server = createServer((request, response) => void listener(request, response));
  return new Promise((resolve) =>
    server.listen(0, '127.0.0.1', () => {
      const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
      const close = () => new Promise<void>((done) => void server.close(() => done()).closeAllConnections());
      resolve({ url, seen, close });
    }),
  );
}

describe('a secret', () => {
  let house: Workspace;
  let outside: Awaited<ReturnType<typeof echo>>;
  let model: ScriptedModel;
  const told: string[] = [];
  const watching = new AbortController();

  before(async () => {
    house = await workspace();
    outside = await echo();
    model = await scriptedModel([
      { text: 'Hello.' },
      { calls: [{ name: 'echo', arguments: { a: `${CANARY} ${PIN}` } }] },
      { text: `The key is ${pieces(CANARY)}. Remember ${CANARY} and ${PIN}.` },
    ]);
    const stream = house.api.events({ signal: watching.signal });
    void (async () => {
      for await (const event of stream) told.push(JSON.stringify(event));
    })().catch(() => {});
  });
  after(async () => {
    watching.abort();
    await house.close();
    await outside.close();
    await model.close();
  });

  const keep = async (work: Promise<unknown>) => {
    const answer = await work.catch((error: unknown) => error);
    told.push(answer instanceof Error ? `${answer.message} ${JSON.stringify(answer)}` : (JSON.stringify(answer) ?? ''));
    return answer;
  };

  it('is in no answer, file, record, event or export, in none of its forms', async () => {
    const { api, service } = house;
    await keep(api.attachServer({ body: { name: 'echo', url: `${outside.url}/mcp`, secret: CANARY } }));
    await keep(api.addCredential({ body: { name: 'web', kind: 'header', header: 'X-Key', secret: CANARY } }));
    await keep(
      api.addModel({ body: { name: 'm', dialect: 'chat-completions', base: model.url, model: 'm' } }).catch(() => null),
    );
    const input = 'input: { type: object, properties: { pin: { type: string, writeOnly: true } } }';
    for (const [name, steps] of Object.entries({
      'web-good': `  get: { kind: http, with: { url: "${outside.url}/echo?pin=\${ urlPart(input.pin) }", credential: web } }\n  say: { kind: text, after: [get], with: { text: "\${ steps.get.body.said } \${ input.pin }" } }`,
      'web-bad': `  get: { kind: http, with: { url: "${outside.url}/fail", credential: web } }`,
      'web-away': `  get: { kind: http, with: { url: "${outside.url}/away", credential: web } }`,
      tools: '  call: { kind: tool, with: { server: echo, tool: echo, arguments: { a: "${ input.pin }" } } }',
      broken: '  call: { kind: tool, with: { server: echo, tool: broken } }',
      asks: `  get: { kind: http, with: { url: "${outside.url}/echo", credential: web } }\n  ask: { kind: approve, after: [get], with: { title: "Take \${ steps.get.body.said } and \${ input.pin }?", message: "\${ input.pin }", facts: { pin: "\${ input.pin }" } } }`,
      talks:
        '  agent: { kind: agent, with: { model: m, message: "My pin is ${ input.pin }", memory: { key: ["desk"] }, toolbox: [{ server: echo }] } }',
      scripts:
        '  run: { kind: script, with: { code: "console.log(\'x\'.repeat(1990) + data.pin); throw new Error(data.pin)", data: { pin: "${ input.pin }" } } }',
      refuses: `  get: { kind: http, with: { url: "${outside.url}/echo", json: { pin: "\${ input.pin }" }, timeout: 5 } }`,
    })) {
      await keep(
        api.importFlow({ body: { document: `format: pindro/flow@1\nname: ${name}\n${input}\nsteps:\n${steps}\n` } }),
      );
      const outcome = (await keep(api.runFlow({ name, body: { input: { pin: PIN } } }))) as { run?: string };
      if (outcome.run) await keep(api.getRun({ id: outcome.run }));
      await keep(
        (async () => {
          for await (const event of api.runDraftTrial({ name, body: { input: { pin: PIN }, trial: {} } }))
            told.push(JSON.stringify(event));
        })(),
      );
      await keep(api.flowTrials({ name }));
    }
    service.flows.revisions.publish('tools');
    service.endpoints.expose('main', 'tools', { flow: 'tools' });
    service.endpoints.save({ ...service.endpoints.get('main'), servers: { echo: {} } });
    const { key } = service.keys.issue({
      name: 'desk',
      attributes: {},
      stage: 'live',
      endpoints: ['main'],
      manage: false,
    });
    const client = await connect(service, key, 'main');
    told.push(JSON.stringify(await client.listTools()));
    for (const tool of ['tools', 'echo', 'broken'])
      told.push(JSON.stringify(await callTool(client, tool, tool === 'tools' ? { pin: PIN } : {})));
    await client.close();
    await keep(api.callServerTool({ name: 'echo', tool: 'broken', body: { arguments: {} } }));
    await keep(api.refreshServer({ name: 'echo' }));
    await keep(api.getServer({ name: 'echo' }));
    await keep(api.listApprovals({}));
    await keep(api.listRuns({ query: { limit: 200 } }));
    await keep(api.exportWorkspace());
    await keep(api.listCredentials());
    await keep(api.status());
    await until(() => told.some((one) => one.includes('"type":"run"')), 'events');

    // The other side was told, or this test would show nothing; and after a redirect to another origin it was not.
    const keys = outside.seen.map((headers) => String(headers['x-key'] ?? headers.authorization ?? ''));
    expect(keys.some((one) => Buffer.from(one, 'latin1').toString('utf8').includes('canary'))).to.equal(true);
    const away = outside.seen.filter(({ host }) => host?.startsWith('localhost'));
    expect(away).to.have.length.above(0);
    for (const headers of away) expect(headers).to.not.have.any.keys('x-key', 'authorization');

    await house.service.close();
    const files = readdirSync(house.data).map(
      (name) => [name, readFileSync(join(house.data, name), 'latin1')] as const,
    );
    for (const secret of [CANARY, PIN])
      for (const form of cores(secret)) {
        for (const one of told) expect(one.includes(form), `${form} in ${one.slice(0, 300)}`).to.equal(false);
        const bytes = Buffer.from(form).toString('latin1');
        for (const [name, content] of files) expect(content.includes(bytes), `${form} in ${name}`).to.equal(false);
      }
    // Not even half of it, where a text was cut.
    for (const one of told) expect(one.includes('pin-of-the-l'), one.slice(0, 300)).to.equal(false);
  });
});

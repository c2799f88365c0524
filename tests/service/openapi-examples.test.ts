import { readdirSync, readFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { createRequire } from 'node:module';
import type { AddressInfo } from 'node:net';
import { dirname, join } from 'node:path';
import { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import type { JsonObject } from '@pindro/core';
import { expect } from 'chai';
import { refusal } from '../support/refusal.js';
import { type Workspace, workspace } from '../support/workspace.js';

const root = dirname(createRequire(import.meta.url).resolve('@readme/oas-examples/package.json'));
const filesIn = (folder: string): string[] =>
  readdirSync(join(root, folder), { withFileTypes: true }).flatMap((entry) =>
    entry.isDirectory()
      ? filesIn(join(folder, entry.name))
      : /\.(json|yaml)$/.test(entry.name)
        ? [join(folder, entry.name)]
        : [],
  );
const textOf = (file: string) => readFileSync(join(root, file), 'utf8');
/** Documents that cannot be imported, and why. */
const REASONS: [RegExp, RegExp][] = [
  [/^2\.0\//, /must declare "openapi: 3\.0\.x" or "3\.1\.x", not "2\.0"/],
  [/openapi-workshop\/title/, /has no operations/],
  [/webhooks/, /has only/],
];

let count = 0;

describe('OpenAPI documents of others', function () {
  this.timeout(120_000);
  let house: Workspace;
  before(async () => {
    house = await workspace();
  });
  after(() => house.close());

  for (const file of ['2.0', '3.0', '3.1'].flatMap((version) => filesIn(version)))
    it(`${file} is imported whole, or refused with the reason`, async () => {
      const source = { text: textOf(file) };
      const reason = REASONS.find(([fits]) => fits.test(file))?.[1];
      if (reason) {
        expect((await refusal(house.api.inspectDocument({ body: source }))).detail).to.match(reason);
        return;
      }
      const { operations } = await house.api.inspectDocument({ body: source });
      expect(operations.filter((one) => one.trouble !== null)).to.deep.equal([]);
      const name = `d${count++}`;
      const base = 'http://127.0.0.1:9';
      const all = operations.map(({ id }) => id);
      const made = await house.api.importDocument({ body: { ...source, name, operations: all, base } });
      expect(made.flows).to.have.length(new Set(all).size);
      await house.api.removeDocument({ name });
    });
});

describe('requests of an imported API', () => {
  let house: Workspace;
  let server: Server;
  let base: string;
  const seen: { url: string; headers: Record<string, unknown>; body: string }[] = [];
  let answer: { status: number; type: string; body: string };
  before(async () => {
    house = await workspace();
    server = createServer((request, response) => {
      let body = '';
      request.setEncoding('latin1').on('data', (piece) => (body += piece));
      request.on('end', () => {
        seen.push({ url: request.url!, headers: request.headers, body });
        response.writeHead(answer.status, { 'content-type': answer.type }).end(answer.body);
      });
    });
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  });
  beforeEach(() => {
    answer = { status: 200, type: 'application/json', body: '{}' };
  });
  after(async () => {
    server.close();
    await house.close();
  });
  const take = async (name: string, file: string, more: object = {}) => {
    const text = textOf(file).replaceAll(/"servers": \[[^\]]*\],?/g, '');
    const { operations } = await house.api.inspectDocument({ body: { text } });
    const all = operations.map(({ id }) => id);
    return house.api.importDocument({ body: { text, name, operations: all, base, ...more } });
  };
  const run = async (flow: string, input: JsonObject) => {
    const outcome = await house.api.runFlow({ name: flow, body: { input, stage: 'draft' } });
    return { outcome, sent: seen.at(-1)! };
  };

  it('write lists and objects in every style of the specification', async () => {
    await take('styles', '3.0/json/parameters-style.json');
    const array = ['blue', 'black'];
    const object = { R: 100, G: 200 };
    const query: [string, JsonObject, string][] = [
      ['query-form-exploded', { array }, 'array=blue&array=black'],
      ['query-form-non-exploded', { array }, 'array=blue,black'],
      ['query-form-exploded', { object }, 'R=100&G=200'],
      ['query-form-non-exploded', { object }, 'object=R,100,G,200'],
      ['query-space-delimited-non-exploded', { array }, 'array=blue%20black'],
      ['query-pipe-delimited-non-exploded', { array }, 'array=blue%7Cblack'],
      ['query-deep-object-non-exploded', { object }, 'object%5BR%5D=100&object%5BG%5D=200'],
    ];
    for (const [flow, input, wanted] of query) {
      const { sent } = await run(`styles-${flow}`, { primitive: 'x', array: [], object: {}, ...input });
      const parts = sent.url.split('?')[1]!.split('&');
      expect(parts.filter((part) => !part.startsWith('primitive=')).join('&'), flow).to.equal(wanted);
    }
    const path: [string, RegExp][] = [
      ['paths-simple-exploded', /\/x\/blue,black\/R=100,G=200$/],
      ['paths-simple-non-exploded', /\/x\/blue,black\/R,100,G,200$/],
      ['paths-label-exploded', /\/\.x\/\.blue\.black\/\.R=100\.G=200$/],
      ['paths-label-non-exploded', /\/\.x\/\.blue,black\/\.R,100,G,200$/],
      ['paths-matrix-exploded', /\/;primitive=x\/;array=blue;array=black\/;R=100;G=200$/],
      ['paths-matrix-non-exploded', /\/;primitive=x\/;array=blue,black\/;object=R,100,G,200$/],
    ];
    for (const [flow, wanted] of path) {
      const { sent } = await run(`styles-${flow}`, { primitive: 'x', array, object });
      expect(sent.url, flow).to.match(wanted);
    }
    const header = await run('styles-headers-simple-exploded', { primitive: 'x', array, object });
    expect(header.sent.headers).to.include({ primitive: 'x', array: 'blue,black', object: 'R=100,G=200' });
  });

  const inputsOf = async (name: string) => {
    const { document } = await house.api.getFlow({ name });
    return (document as { input: { properties: Record<string, object> } }).input.properties;
  };

  it('send cookies, files and texts', async () => {
    const { flows } = await take('cookies', '3.0/json/parameters-cookies.json');
    const names = Object.keys(await inputsOf(flows[0]!));
    const { sent } = await run(flows[0]!, Object.fromEntries(names.map((name) => [name, 'a b'])) as JsonObject);
    expect(sent.headers.cookie).to.contain('=a%20b');
    const uploads = await take('files', '3.0/json/file-uploads.json');
    const png = await run(uploads.flows.find((flow) => flow.includes('image-png'))!, { body: 'iVBORw==' });
    expect([png.sent.headers['content-type'], png.sent.body]).to.deep.equal(['image/png', '\x89PNG']);
    const form = uploads.flows.find((flow) => flow.includes('post-anything-multipart'))!;
    const [field] = Object.entries(await inputsOf(form)).find(([, one]) => 'properties' in one)!;
    const file = { file: 'hut "1".png', base64: 'iVBORw==', type: 'image/png' };
    const { sent: multi } = await run(form, { [field]: file });
    expect(multi.headers['content-type']).to.match(/^multipart\/form-data; boundary=/);
    expect(multi.body).to.contain('filename="hut %221%22.png"\r\nContent-Type: image/png\r\n\r\n\x89PNG');
  });

  it('become tools of an endpoint all at once, whose errors say what to correct', async () => {
    for (const [name, file] of [
      ['pets', '3.0/json/petstore.json'],
      ['pets31', '3.1/json/petstore.json'],
    ] as const) {
      answer = { status: 200, type: 'application/json', body: '[{"name":"Rex"}]' };
      const made = await take(name, file, { endpoint: `${name}-desk` });
      expect(made.tools).to.have.length(made.flows.length).and.to.include(`${name}_find_pets_by_status`);
      const { key } = await house.api.issueKey({ body: { name, caller: name, endpoints: [`${name}-desk`] } });
      const client = new Client({ name: 'check', version: '1' });
      const url = new URL(`${house.service.url}/mcp/${name}-desk`);
      const requestInit = { headers: { authorization: `Bearer ${key}` } };
      await client.connect(new StreamableHTTPClientTransport(url, { requestInit }));
      const { tools } = await client.listTools();
      expect(tools.map((tool) => tool.name)).to.have.members(made.tools);
      const call = { name: `${name}_find_pets_by_status`, arguments: { status: ['available', 'sold'] } };
      expect(JSON.stringify(await client.callTool(call))).to.contain('Rex');
      expect(seen.at(-1)!.url).to.match(/\?status=available&status=sold$/);
      answer = {
        status: 422,
        type: 'application/json',
        body: '{"detail":"No pet is sold","errors":{"status":"unknown"}}',
      };
      const refused = await client.callTool(call);
      const [{ text }] = refused.content as [{ text: string }];
      expect(refused.isError).to.equal(true);
      expect(text).to.contain('returned 422: No pet is sold. status: unknown').and.contain('correct it');
      answer = { status: 401, type: 'application/json', body: '{"detail":"key abc is expired"}' };
      expect(JSON.stringify(await client.callTool(call))).not.to.contain('key abc');
      await client.close();
    }
  });

  it('are made all or none', async () => {
    const before = (await house.api.listFlows()).items.length;
    const taken = await refusal(take('pets', '3.0/json/star-trek.json', { endpoint: 'Not a name' }));
    expect(taken.detail).to.contain('is not a valid endpoint');
    const text = textOf('3.0/json/petstore.json');
    const some = { name: 'other', base, operations: ['addPet', 'nothing'] };
    expect((await refusal(house.api.importDocument({ body: { text, ...some } }))).detail).to.contain('nothing');
    expect((await house.api.listFlows()).items).to.have.length(before);
    const padded = `${text.trimEnd().slice(0, -1)}, "x-notes": "${'x'.repeat(9 * 1024 * 1024)}" }`;
    expect((await house.api.inspectDocument({ body: { text: padded } })).operations).to.have.length.above(10);
    const long = padded.replace('"x-notes": "', `"x-notes": "${'x'.repeat(2 * 1024 * 1024)}`);
    expect((await refusal(house.api.inspectDocument({ body: { text: long } }))).code).to.equal('body_too_large');
  });
});

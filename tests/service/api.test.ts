import { mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { request } from 'node:http';
import { join } from 'node:path';
import { createClient, ProblemError, routes, UnreachableError } from '@pindro/contract';
import { catalogue, PindroError } from '@pindro/core';
import { expect } from 'chai';
import { deadPort } from '../support/scripted-model.js';
import { discard, furnish, RESERVE, temporary, until, type Workspace, workspace } from '../support/workspace.js';

const problemOf = async (work: Promise<unknown>) => {
  const error = await work.catch((thrown: unknown) => thrown);
  expect(error, 'a refusal').to.be.instanceOf(ProblemError);
  return (error as ProblemError).problem;
};

describe('the API', () => {
  let house: Workspace;
  before(async () => {
    house = await workspace({ bodyLimit: 64 * 1024 });
    furnish(house.service);
  });
  after(() => house.close());

  const raw = (path: string, headers: Record<string, string> = {}, method = 'GET', body?: string) =>
    new Promise<{ status: number; headers: Record<string, unknown>; body: string }>((resolve, reject) => {
      const length: Record<string, string> =
        body === undefined ? {} : { 'content-length': String(Buffer.byteLength(body)) };
      const sent = request(
        `${house.service.url}${path}`,
        { method, headers: { ...length, ...headers } },
        (response) => {
          let text = '';
          response.on('data', (piece) => {
            text += piece;
          });
          response.on('end', () => resolve({ status: response.statusCode!, headers: response.headers, body: text }));
        },
      );
      sent.on('error', reject);
      sent.end(body);
    });
  const key = () => ({ authorization: `Bearer ${house.apiKey}` });

  it('serves an OpenAPI 3.1 document of every route', async () => {
    const document = JSON.parse((await raw('/api/v1/openapi.json')).body);
    expect(document.openapi).to.match(/^3\.1/);
    const operations = Object.values(document.paths as Record<string, Record<string, { operationId: string }>>).flatMap(
      (path) => Object.values(path).map((operation) => operation.operationId),
    );
    expect(operations).to.have.members(Object.keys(routes));
  });

  it('serves the JSON Schema of a flow', async () => {
    expect(JSON.parse((await raw('/api/v1/schemas/flow.json')).body)).to.have.nested.property('properties.steps');
  });

  it('answers nobody without a key, on any route', async () => {
    for (const [name, route] of Object.entries(routes)) {
      const path = `/api/v1${route.path.replace(/:\w+/g, 'x')}`;
      const { status, body, headers } = await raw(
        path,
        { 'content-type': 'application/json' },
        route.method,
        route.method === 'GET' ? undefined : '{}',
      );
      expect(status, name).to.equal(401);
      expect(headers['content-type'], name).to.contain('application/problem+json');
      expect(JSON.parse(body).code, name).to.equal('not_signed_in');
    }
  });

  it('says what is wrong with a key', async () => {
    const code = async (authorization: string) =>
      JSON.parse((await raw('/api/v1/status', { authorization })).body).code;
    expect(await code(house.apiKey)).to.equal('key_without_bearer');
    expect(await code('Bearer pindro_wrong')).to.equal('key_unknown');
    expect(await code('Basic abc')).to.equal('not_signed_in');
    const { key: other } = house.service.keys.issue({
      name: 'tablet',
      attributes: {},
      stage: 'live',
      endpoints: ['huts'],
      manage: false,
    });
    expect(await code(`Bearer ${other}`)).to.equal('not_allowed');
  });

  it('answers problem details with a code, a hint and a pointer', async () => {
    expect(await problemOf(house.api.getFlow({ name: 'reserve-bunk' }))).to.deep.include({
      status: 404,
      code: 'not_found',
      detail: 'There is no flow named "reserve-bunk"',
      hint: 'Did you mean "reserve-bunks"?',
    });
    const problem = await problemOf(
      house.api.importFlow({ body: { document: 'format: pindro/flow@1\nname: x\nsteps: { a: { kind: tabel } }' } }),
    );
    expect(problem).to.include({ status: 422, code: 'flow_invalid', at: '/steps/a/kind' });
    expect(problem.mistakes![0]).to.deep.include({ line: 3, column: 15, hint: 'Did you mean "table"?' });
    expect((await problemOf(house.api.issueKey({ body: { name: '' } }))).at).to.equal('/name');
    expect(await problemOf(house.api.issueKey({ body: { name: 'x', endpoints: ['hutz'] } }))).to.include({
      code: 'not_found',
      hint: 'Did you mean "huts"?',
    });
  });

  it('refuses bodies that are too large, broken or too deep, and goes on', async () => {
    const post = async (body: string) =>
      JSON.parse(
        (await raw('/api/v1/flows/check', { ...key(), 'content-type': 'application/json' }, 'POST', body)).body,
      );
    expect(await post(JSON.stringify({ document: 'x'.repeat(70_000) }))).to.include({
      code: 'body_too_large',
      status: 413,
    });
    expect(await post('{"document": ')).to.include({ code: 'body_unreadable', status: 400 });
    expect(await post(`{"document": ${'['.repeat(500)}${']'.repeat(500)}}`)).to.include({ code: 'value_unsafe' });
    expect((await house.api.status()).name).to.equal('pindro');
  });

  it('refuses strange hosts and pages of other origins', async () => {
    const code = async (headers: Record<string, string>) =>
      JSON.parse((await raw('/api/v1/status', { ...key(), ...headers })).body).code;
    expect(await code({ host: 'evil.example' })).to.equal('host_refused');
    expect(await code({ origin: 'https://evil.example' })).to.equal('origin_refused');
    expect(await code({ origin: 'null' })).to.equal('origin_refused');
    const { port } = new URL(house.service.url);
    expect(await code({ origin: `http://127.0.0.1:${Number(port) + 1}` })).to.equal('origin_refused');
    expect(await code({ origin: house.service.url })).to.equal(undefined);
  });

  it('names the methods that a path answers', async () => {
    const wrong: [string, string, string][] = [
      ['PATCH', '/api/v1/flows', 'GET, HEAD, POST'],
      ['POST', '/api/v1/status', 'GET, HEAD'],
      ['DELETE', '/forms/nothing', 'GET, HEAD, POST'],
      ['POST', '/healthz', 'GET, HEAD'],
    ];
    for (const [method, path, allow] of wrong) {
      const response = await fetch(`${house.service.url}${path}`, { method, headers: key() });
      expect([response.status, response.headers.get('allow')], path).to.deep.equal([405, allow]);
      expect(await response.json(), path).to.include({ code: 'method_not_allowed', title: 'Method not allowed' });
    }
  });

  it('refuses a table that is not there, and a duration that no date can hold', async () => {
    const { api } = house;
    const body = { rows: [{}] };
    for (const work of [
      api.addRow({ name: 'none', body: { row: {} } }),
      api.addRows({ name: 'none', body }),
      api.addRows({ name: 'none', body: { ...body, key: 'id' } }),
    ])
      expect((await problemOf(work)).status).to.equal(404);
    const long = '99999999999999999d';
    expect((await problemOf(api.issueKey({ body: { name: 'a', caller: 'a', expires: long } }))).status).to.equal(422);
    await api.addCredential({ body: { name: 'rotated', secret: 'a-long-secret' } });
    const change = { secret: 'another-secret', keep: long };
    expect((await problemOf(api.updateCredential({ name: 'rotated', body: change }))).status).to.equal(422);
    expect((await api.listCredentials()).items.map(({ name }) => name)).to.include('rotated');
    await api.removeCredential({ name: 'rotated' });
  });

  it('answers health probes under any host', async () => {
    for (const path of ['/healthz', '/readyz'])
      expect((await raw(path, { host: '10.1.2.3:8080' })).status, path).to.equal(200);
    expect((await raw('/api/v1/status', { ...key(), host: '10.1.2.3:8080' })).status).to.equal(403);
  });

  it('answers addresses that are no page of the console with 404, to browsers with the page', async () => {
    const folder = temporary();
    mkdirSync(join(folder, 'assets'));
    writeFileSync(join(folder, 'index.html'), '<!doctype html><title>Console</title>');
    const other = await workspace({ console: folder });
    const get = (path: string, accept: string) => fetch(`${other.service.url}${path}`, { headers: { accept } });
    expect((await get('/runs/r1', 'text/html')).status).to.equal(200);
    expect((await get('/', '*/*')).status).to.equal(200);
    for (const path of ['/metrics.json', '/admin', '/.env', '/flowsx']) {
      const page = await get(path, 'text/html');
      expect([page.status, await page.text()], path).to.deep.equal([404, '<!doctype html><title>Console</title>']);
      const problem = await get(path, '*/*');
      expect([problem.status, ((await problem.json()) as { code: string }).code]).to.deep.equal([
        ...[404, 'no_such_address'],
      ]);
    }
    await other.close();
    discard(folder);
  });

  it('answers unknown paths with a problem, the well-known ones too', async () => {
    for (const path of [
      '/api/v1/nothing',
      '/.well-known/oauth-protected-resource',
      '/.well-known/openid-configuration',
    ]) {
      const { status, body } = await raw(path, key());
      expect(status, path).to.equal(404);
      expect(JSON.parse(body).code, path).to.equal('no_such_address');
    }
    expect((await raw('/api/v1/flows/%zz', key())).status).to.be.oneOf([400, 422]);
  });

  it('signs in by a link that works once', async () => {
    const link = new URL(house.service.createSignInLink());
    const first = await raw(link.pathname + link.search);
    expect(first.status).to.equal(303);
    const cookie = String(first.headers['set-cookie']);
    expect(cookie).to.contain('HttpOnly').and.contain('SameSite=Strict');
    const session = { cookie: cookie.split(';')[0]! };
    expect((await raw('/api/v1/status', session)).status).to.equal(200);
    expect((await raw(link.pathname + link.search)).status).to.equal(401);
    expect((await raw(link.pathname + link.search, session)).status).to.equal(303);
    const own = { ...session, origin: house.service.url, 'content-type': 'application/json' };
    await raw('/api/v1/sign-out', own, 'POST', '{}');
    expect((await raw('/api/v1/status', session)).status).to.equal(401);
  });

  it('keeps drafts apart from what is live', async () => {
    await house.api.importFlow({ body: { document: RESERVE.replace('title: Reserve bunks', 'title: Another title') } });
    expect(await house.api.getFlow({ name: 'reserve-bunks' })).to.deep.include({
      revision: 1,
      changed: true,
      title: 'Another title',
    });
    expect(await house.api.publishFlow({ name: 'reserve-bunks', body: {} })).to.deep.equal({
      revision: 2,
      fresh: true,
      blockers: [],
    });
    expect(await house.api.publishFlow({ name: 'reserve-bunks', body: {} })).to.deep.equal({
      revision: 2,
      fresh: false,
      blockers: [],
    });
    await house.api.importFlow({ body: { document: RESERVE.replace('name: reserve-bunks', 'name: only-a-draft') } });
    expect((await problemOf(house.api.runFlow({ name: 'only-a-draft', body: { stage: 'live' } }))).code).to.equal(
      'flow_not_published',
    );
  });

  it('exposes a flow in one call: published, on an endpoint, with a key and settings that parse', async () => {
    const exposed = await house.api.exposeFlow({ name: 'only-a-draft', body: { endpoint: 'fresh', caller: 'marit' } });
    expect(exposed).to.include({ revision: 1, tool: 'only_a_draft' });
    const json = JSON.parse(exposed.settings.find((one) => one.shape === 'json')!.text);
    expect(json.mcpServers.fresh).to.deep.include({
      url: `${house.service.url}/mcp/fresh`,
      headers: { Authorization: `Bearer ${exposed.key}` },
    });
    expect(exposed.settings.every((one) => one.text.includes(exposed.key))).to.equal(true);
    const again = await problemOf(
      house.api.exposeFlow({ name: 'reserve-bunks', body: { endpoint: 'fresh', tool: 'only_a_draft' } }),
    );
    expect(again.code).to.equal('already_there');
  });

  it('runs by hand, tells of it live, and finds it again by filters', async () => {
    const stop = new AbortController();
    const seen: string[] = [];
    const watching = (async () => {
      for await (const event of house.api.events({ signal: stop.signal }))
        if (event.type === 'run') seen.push(`${event.run.flow} ${event.run.state}`);
    })().catch(() => {});
    await new Promise((resolve) => setTimeout(resolve, 100));
    const outcome = await house.api.runFlow({
      name: 'reserve-bunks',
      body: { input: { hut: 'larch', night: '2027-02-14', party: 3 } },
    });
    expect(outcome).to.deep.include({ state: 'done', url: `${house.service.url}/runs/${outcome.run}` });
    expect(outcome.result).to.deep.include({ hut: 'larch', party: 3, by: 'owner' });
    await until(() => seen.includes('reserve-bunks done'), 'the run to be told');
    stop.abort();
    await watching;
    expect(seen).to.include('reserve-bunks done');
    const failed = await house.api.runFlow({ name: 'reserve-bunks', body: { input: { hut: 'larch' } } });
    const list = (query: object) => house.api.listRuns({ query }).then((page) => page.items.map((run) => run.id));
    expect(await list({ state: 'failed' })).to.deep.equal([failed.run]);
    expect(await list({ caller: 'nobody' })).to.deep.equal([]);
    const page = await house.api.listRuns({ query: { limit: 1 } });
    expect((await house.api.listRuns({ query: { limit: 1, cursor: page.next! } })).items[0]!.id).to.equal(outcome.run);
  });

  it('shows what went into and came out of each step, and runs the same again on the draft', async () => {
    const { run } = await house.api.runFlow({
      name: 'reserve-bunks',
      body: { input: { hut: 'larch', night: '2027-02-20', party: 2 }, stage: 'live' },
    });
    const detail = await house.api.getRun({ id: run });
    const steps = detail.spans.filter((span) => span.work === 'step');
    expect(steps.map((span) => span.name)).to.deep.equal(['place', 'book']);
    expect(steps[1]!.input).to.deep.include({ row: { hut: 'larch', night: '2027-02-20', party: 2, by: 'owner' } });
    expect(steps[1]!.output).to.have.nested.property('row.party', 2);
    expect(detail.settled.map((one) => one.path)).to.deep.equal(['place', 'book', 'full'].slice(0, 2));
    const again = await house.api.retryRun({ id: run, body: {} });
    expect(await house.api.getRun({ id: again.run })).to.deep.include({
      stage: 'draft',
      entry: 'again',
      input: detail.input,
    });
  });

  it('seals credentials and never gives them back', async () => {
    const secret = 'wholesale-secret-4711';
    await house.api.addCredential({ body: { name: 'wholesale', kind: 'header', header: 'X-Api-Key', secret } });
    expect(JSON.stringify(await house.api.listCredentials())).not.to.contain(secret);
    for (const file of ['pindro.db', 'pindro.db-wal'])
      expect(readFileSync(join(house.data, file)).includes(secret), file).to.equal(false);
    expect(statSync(join(house.data, 'secret.key')).mode & 0o777).to.equal(0o600);
    expect(house.service.credentials.reveal('wholesale', { inside: 'inspect' })).to.deep.equal({
      headers: { 'x-api-key': secret },
      secrets: [secret],
    });
    expect((await problemOf(house.api.addCredential({ body: { name: 'b', secret: 'Bearer abc' } }))).detail).to.contain(
      'remove it',
    );
    expect(
      (await problemOf(house.api.addCredential({ body: { name: 'c', secret: 'line\nbreak' } }))).detail,
    ).to.contain('line break');
    expect(
      (await problemOf(house.api.addCredential({ body: { name: 'd', kind: 'header', secret: 'long enough' } }))).at,
    ).to.equal('/header');
    expect((await problemOf(house.api.addCredential({ body: { name: 'e', secret: '12345' } }))).detail).to.contain(
      'needs at least 6',
    );
    await house.api.removeCredential({ name: 'wholesale' });
  });

  it('keeps no access key in the clear', () => {
    expect(readFileSync(join(house.data, 'pindro.db-wal')).includes(house.apiKey)).to.equal(false);
  });

  it('prints the public address everywhere once one is set', async () => {
    const other = await workspace({ publicUrl: 'https://flows.alder-ridge.example/' });
    try {
      furnish(other.service);
      expect(other.service.url).to.equal('https://flows.alder-ridge.example');
      expect(other.service.createSignInLink()).to.match(/^https:\/\/flows\.alder-ridge\.example\/sign-in\?code=/);
      expect(other.service.endpoints.get('huts').name).to.equal('huts');
    } finally {
      await other.close();
    }
  });

  it('tells an unreachable service from a refusal', async () => {
    const error = await createClient({ url: `http://127.0.0.1:${await deadPort()}` })
      .status()
      .catch((thrown: unknown) => thrown);
    expect(error).to.be.instanceOf(UnreachableError);
  });
});

describe('the catalogue of errors', () => {
  for (const code of Object.keys(catalogue) as (keyof typeof catalogue)[]) {
    it(`${code} fills its words, carries a status and survives as a record`, () => {
      const params = Object.fromEntries(
        [...`${catalogue[code].message} ${catalogue[code].hint}`.matchAll(/\{(\w+)\}/g)].map(([, name]) => [
          name!,
          `<${name}>`,
        ]),
      );
      const error = new PindroError(code, params, { at: '/x' });
      expect(`${error.message}${error.hint}`).not.to.match(/[{}]/);
      expect(error.toProblem()).to.include({ code, status: catalogue[code].http, detail: error.message });
      expect(PindroError.from(error.toRecord())).to.include({
        code,
        message: error.message,
        hint: error.hint,
        at: '/x',
      });
    });
  }

  it('is documented, each code once, and nothing else is', () => {
    const documented = [
      ...readFileSync(new URL('../../../docs/errors.md', import.meta.url), 'utf8').matchAll(/^\| `(\w+)` \|/gm),
    ].map((match) => match[1]);
    expect(documented).to.deep.equal(Object.keys(catalogue));
  });
});

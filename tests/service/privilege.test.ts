import { existsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROLES, type Role } from '@pindro/contract';
import { PROGRAMS } from '@pindro/standins';
import { expect } from 'chai';
import { discard, furnish, temporary, until, type Workspace, workspace } from '../support/workspace.js';

const node = process.execPath;

/** Roads by which somebody of a lesser role could come to what only an owner may do. Effects count, not status codes. */
describe('privilege', function () {
  this.timeout(60_000);
  let house: Workspace;
  let folder: string;
  /** Written by the program when it runs. */
  let mark: string;
  const cookies: Partial<Record<Role, string>> = {};

  const begin = async (settings: object = {}) => {
    folder = temporary();
    mark = join(folder, 'ran');
    house = await workspace(settings);
    furnish(house.service);
    for (const role of ROLES) {
      const { url } = await house.api.addPerson({ body: { name: `a-${role}`, role } });
      const answer = await fetch(url, { redirect: 'manual' });
      cookies[role] = answer.headers.get('set-cookie')!.split(';')[0]!;
    }
  };
  afterEach(async () => {
    await house.close();
    discard(folder);
  });
  const send = async (role: Role, method: string, path: string, body?: object) => {
    const response = await fetch(`${house.service.url}/api/v1${path}`, {
      method,
      headers: { cookie: cookies[role]!, origin: house.service.url, 'content-type': 'application/json' },
      ...(body && { body: JSON.stringify(body) }),
    });
    const text = await response.text();
    return { status: response.status, text, json: text.startsWith('{') ? JSON.parse(text) : {} };
  };
  /** A script that leaves a mark, then is a tool server. */
  const script = (more = '') => {
    const path = join(folder, 'tool.mjs');
    writeFileSync(
      path,
      `import { writeFileSync } from 'node:fs';\nwriteFileSync(${JSON.stringify(mark)}, 'ran');\n${more}process.argv.splice(2);\nawait import(${JSON.stringify(PROGRAMS.trails)});\n`,
    );
    return path;
  };
  const serverFile = (path: string, more = '') =>
    `format: pindro/server@1\nname: trails\nprogram:\n  command: ${JSON.stringify(node)}\n  args: [${JSON.stringify(path)}]\n  env: {}\ntools:\n  - name: list_trails\n    inputSchema: { type: object }\n${more}`;
  const hasRun = () => existsSync(mark);

  it('no change of a server starts a program that nobody allowed', async () => {
    for (const programs of [['none'], ['any']]) {
      await begin({ programs });
      const imported = await send('builder', 'POST', '/workspace', {
        files: { 'servers/trails.yaml': serverFile(script()) },
        overwrite: false,
      });
      expect(imported.status, imported.text).to.equal(200);
      await house.api.addCredential({ body: { name: 'spare', secret: 'spare-secret-1' } });
      const roads: [string, string, object?][] = [
        ['PUT', '/servers/trails', { headers: { 'x-hut': 'larch' } }],
        ['PUT', '/servers/trails', { secret: 'warden-secret-2' }],
        ['PUT', '/servers/trails', { credential: 'spare' }],
        ['PUT', '/servers/trails', { also: ['spare'] }],
        ['PUT', '/servers/trails', { network: {} }],
        ['PUT', '/servers/trails', { rules: {}, limits: { idle: '1s' } }],
        ['PUT', '/servers/trails', { headers: { 'x-hut': 'kestrel' }, skipTest: true }],
        ['PUT', '/servers/trails', { program: { command: node, args: [script()], env: {} } }],
        ['POST', '/servers/trails/refresh', {}],
        ['POST', '/servers/trails/tools/list_trails/call', { arguments: {} }],
        ['POST', '/servers/trails/allow', { command: node, args: [script()], env: {}, files: [] }],
        ['POST', '/servers/trails/rename', { to: 'paths' }],
        ['POST', '/servers/paths/copy', { to: 'more-paths' }],
        ['POST', '/credentials/spare/test', {}],
        ['PUT', '/credentials/spare', { secret: 'spare-secret-3' }],
        ['POST', '/servers/paths/changes/accept', {}],
        ['POST', '/servers', { name: 'other', program: { command: node, args: [script()], env: {} } }],
        ['POST', '/servers/attach', { text: `${node} ${script()}` }],
      ];
      for (const [method, path, body] of roads) {
        const { status, text } = await send('builder', method, path, body);
        expect(status, `${method} ${path}: ${text}`).to.be.below(500 + (text.includes('program_') ? 100 : 0));
        expect(hasRun(), `${method} ${path} ${JSON.stringify(body)}`).to.equal(false);
      }
      // Removed and put back, written over by a file, brought along by a bundle: it still waits.
      const { json } = await send('builder', 'DELETE', '/servers/paths?force=true');
      expect((await send('builder', 'POST', `/removals/${json.removal.id}/put-back`)).json.code).to.equal(
        'role_too_low',
      );
      await send('owner', 'POST', `/removals/${json.removal.id}/put-back`);
      await send('builder', 'POST', '/servers/paths/refresh', {});
      await new Promise((resolve) => setTimeout(resolve, 200));
      expect(hasRun()).to.equal(false);
      if (programs[0] === 'none') {
        await house.close();
        discard(folder);
      }
    }
  });

  it('an operator lists the values of an argument, but not with a credential of their choice', async () => {
    await begin();
    const attach = { name: 'trails', program: { command: node, args: [script()], env: {} } };
    expect((await send('owner', 'POST', '/servers', attach)).status).to.equal(200);
    await house.api.addCredential({ body: { name: 'of-ines', secret: 'a-secret-of-ines' } });
    const wanted = { server: 'trails', tool: 'trail_report', argument: 'trail' };
    const listed = await send('operator', 'POST', '/values', wanted);
    expect([listed.status, listed.json.from], listed.text).to.deep.equal([200, { tool: 'list_trails' }]);
    const asOther = await send('operator', 'POST', '/values', { ...wanted, credential: 'of-ines' });
    expect([asOther.status, asOther.json.code]).to.deep.equal([403, 'role_too_low']);
    expect((await send('viewer', 'POST', '/values', wanted)).status).to.equal(403);
  });

  it('a permission holds for just what was reviewed: command, arguments, environment and files', async () => {
    await begin();
    const path = script();
    const attach = { name: 'trails', program: { command: node, args: [path], env: { HUT: 'larch' } } };
    expect((await send('owner', 'POST', '/servers', attach)).status).to.equal(200);
    expect(hasRun()).to.equal(true);
    const call = () => send('operator', 'POST', '/servers/trails/tools/list_trails/call', { arguments: {} });
    expect((await call()).status).to.equal(200);
    // Another content of the script: the next start is refused, until somebody has seen it.
    const before = (await send('owner', 'GET', '/servers/trails/program')).json;
    expect(before.fingerprint.files.map((one: { path: string }) => one.path)).to.include(path);
    script('// changed\n');
    discard(mark);
    await send('owner', 'PUT', '/servers/trails', { limits: { idle: '1s' } });
    const refused = await call();
    expect(refused.json.code, refused.text).to.equal('program_changed');
    expect(refused.text).to.contain('tool.mjs');
    expect(hasRun()).to.equal(false);
    const shown = (await send('builder', 'GET', '/servers/trails')).json;
    expect(shown).to.include({ needsApproval: true });
    // What was seen before is no permission for what it is now.
    expect((await send('owner', 'POST', '/servers/trails/allow', before.fingerprint)).json.code).to.equal(
      'program_changed',
    );
    const { fingerprint } = (await send('owner', 'GET', '/servers/trails/program')).json;
    for (const role of ['viewer', 'operator', 'builder'] as const) {
      expect((await send(role, 'GET', '/servers/trails/program')).json.code).to.equal('role_too_low');
      expect((await send(role, 'POST', '/servers/trails/allow', fingerprint)).json.code).to.equal('role_too_low');
    }
    expect((await send('owner', 'POST', '/servers/trails/allow', {})).json.code).to.equal('request_invalid');
    expect(hasRun()).to.equal(false);
    expect((await send('owner', 'POST', '/servers/trails/allow', fingerprint)).status).to.equal(200);
    await until(hasRun, 'the program to run');
    // A file with another value of a variable takes the permission away.
    discard(mark);
    const { files } = (await send('builder', 'GET', '/workspace')).json;
    const changed = files['servers/trails.yaml'].replace('HUT: larch', 'HUT: kestrel');
    expect(changed).not.to.equal(files['servers/trails.yaml']);
    await send('builder', 'POST', '/workspace', { files: { 'servers/trails.yaml': changed }, overwrite: true });
    expect((await call()).json.code).to.equal('program_not_allowed');
    expect(hasRun()).to.equal(false);
  });

  it('what only an owner can create, only an owner puts back', async () => {
    await begin();
    const { key, summary } = house.service.keys.issue({
      ...{ name: 'api', attributes: {}, stage: 'live', endpoints: ['*'], manage: true },
    });
    const isGood = async () =>
      (await fetch(`${house.service.url}/api/v1/status`, { headers: { authorization: `Bearer ${key}` } })).status ===
      200;
    expect(await isGood()).to.equal(true);
    const removed = await send('owner', 'DELETE', `/keys/${summary.id}`);
    expect(removed.status).to.equal(200);
    expect(await isGood()).to.equal(false);
    for (const role of ['viewer', 'operator', 'builder'] as const) {
      const { json } = await send(role, 'POST', `/removals/${removed.json.removal.id}/put-back`);
      expect(json.code).to.equal('role_too_low');
      expect(await isGood()).to.equal(false);
    }
    expect((await send('owner', 'POST', `/removals/${removed.json.removal.id}/put-back`)).status).to.equal(200);
    expect(await isGood()).to.equal(true);
    // A credential that is read on the machine is an owner's too, also as a copy.
    writeFileSync(join(folder, 'secret'), 'file-secret-1');
    await send('owner', 'POST', '/credentials', { name: 'read', source: { file: join(folder, 'secret') } });
    expect((await send('builder', 'POST', '/credentials/read/copy', { to: 'mine' })).json.code).to.equal(
      'role_too_low',
    );
    const gone = await send('builder', 'DELETE', '/credentials/read');
    expect((await send('builder', 'POST', `/removals/${gone.json.removal.id}/put-back`)).json.code).to.equal(
      'role_too_low',
    );
    // A plain key is a builder's to remove and to put back.
    const plain = house.service.keys.issue({
      ...{ name: 'plain', attributes: {}, stage: 'live', endpoints: ['huts'], manage: false },
    });
    const taken = await send('builder', 'DELETE', `/keys/${plain.summary.id}`);
    expect((await send('builder', 'POST', `/removals/${taken.json.removal.id}/put-back`)).status).to.equal(200);
  });

  it('a restored backup revives no revoked key, removed person or ended session, unless that is asked for', async () => {
    await begin();
    const issue = (name: string) =>
      house.service.keys.issue({ name, attributes: {}, stage: 'live', endpoints: ['*'], manage: true });
    const [revoked, removed, kept] = [issue('revoked'), issue('removed'), issue('kept')];
    const { id } = await house.api.createBackup();
    await house.api.revokeKey({ id: revoked.summary.id });
    await house.api.removeKey({ id: removed.summary.id, query: {} });
    await house.api.removePerson({ name: 'a-builder', query: {} });
    await house.api.updatePerson({ name: 'a-operator', body: { role: 'viewer' } });
    await send('viewer', 'POST', '/sign-out');
    const preview = await house.api.previewRestore({ id });
    expect(preview.keys.map(({ name }) => name).sort()).to.deep.equal(['removed', 'revoked']);
    expect(preview.people).to.have.deep.members([
      { name: 'a-builder', role: 'builder', now: null },
      { name: 'a-operator', role: 'operator', now: 'viewer' },
    ]);
    const good = async () => {
      const found: string[] = [];
      for (const [name, { key }] of Object.entries({ revoked, removed, kept }))
        if ((await fetch(`${house.service.url}/api/v1/status`, { headers: { authorization: `Bearer ${key}` } })).ok)
          found.push(name);
      for (const role of ROLES) if ((await send(role, 'GET', '/me')).status === 200) found.push(role);
      return found;
    };
    const restore = async (reactivate: boolean) => {
      const again = new Promise<void>((resolve) => house.service.onceAgain(resolve));
      await house.api.restoreBackup({ id, body: { reactivate } });
      await again;
    };
    await restore(false);
    expect(await good()).to.deep.equal(['kept', 'operator', 'owner']);
    expect((await house.api.getPerson({ name: 'a-operator' })).role).to.equal('viewer');
    await restore(true);
    expect(await good()).to.have.members(['revoked', 'removed', 'kept', 'viewer', 'operator', 'builder', 'owner']);
    expect((await send('builder', 'GET', `/backups/${id}/restore`)).json.code).to.equal('role_too_low');
  });

  it('the self-test of an endpoint reaches nothing that the policy forbids', async () => {
    await begin({ resolve: async () => ['169.254.169.254'] });
    for (const url of ['http://169.254.169.254/latest/meta-data', 'http://inside.example/mcp/huts']) {
      const { json } = await send('operator', 'POST', '/endpoints/huts/test', { url, key: 'pindro_x' });
      expect(json.steps[0].found, JSON.stringify(json)).to.contain('a network address');
    }
  });
});

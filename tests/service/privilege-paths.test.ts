import { existsSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import type { Role } from '@pindro/contract';
import { PROGRAMS } from '@pindro/standins';
import { expect } from 'chai';
import { callTool, connect, discard, furnish, temporary, type Workspace, workspace } from '../support/workspace.js';

const node = process.execPath;
const LESSER: Role[] = ['viewer', 'operator', 'builder'];
const TAKEN = 'secret-in-a-file-of-the-machine';

interface Answer {
  status: number;
  text: string;
  // biome-ignore lint/suspicious/noExplicitAny: what is answered differs by path
  json: any;
}
type Send = (method: string, path: string, body?: object) => Promise<Answer>;

/** Every path by which an object can be made or changed, tried by each lesser role with objects that only an owner makes. */
describe('privilege, path by path', function () {
  this.timeout(120_000);
  let house: Workspace;
  let folder: string;
  let recorder: Server;
  let recorderAt: string;
  let recorded: string[];
  const cookies: Partial<Record<Role, string>> = {};
  /** What the owner made: a program, keys of the API, a credential that is read from a file, and a backup of it all. */
  let owned: { live: string; revoked: string; id: string; gone: { id: string; program: string; credential: string } };
  let backup: string;
  let proposal: string;

  const as =
    (role: Role): Send =>
    async (method, path, body) => {
      const response = await fetch(`${house.service.url}/api/v1${path}`, {
        method,
        headers: { cookie: cookies[role]!, origin: house.service.url, 'content-type': 'application/json' },
        ...(method !== 'GET' && { body: JSON.stringify(body ?? {}) }),
      });
      const text = await response.text();
      return { status: response.status, text, json: text.startsWith('{') ? JSON.parse(text) : {} };
    };
  /** A script that leaves a mark of that name, then is a tool server. */
  const script = (name: string) => {
    const path = join(folder, `${name}.mjs`);
    writeFileSync(
      path,
      `import { writeFileSync } from 'node:fs';\nwriteFileSync(${JSON.stringify(join(folder, `${name}.ran`))}, '');\nprocess.argv.splice(2);\nawait import(${JSON.stringify(PROGRAMS.trails)});\n`,
    );
    return path;
  };
  const program = (name: string) => ({ command: node, args: [script(name)], env: {} });
  const serverFile = (name: string, mark: string) =>
    `format: pindro/server@1\nname: ${name}\nprogram: ${JSON.stringify(program(mark))}\ntools:\n  - name: list_trails\n    inputSchema: { type: object }\n`;
  const walk = (name: string, more = '') =>
    `format: pindro/flow@1\nname: ${name}\nsteps:\n  tell: { kind: http, with: { url: ${JSON.stringify(recorderAt)}, credential: machine } }\n  look: { kind: tool, after: [tell], with: { server: waiting, tool: list_trails } }\n${more}`;

  before(async () => {
    recorder = createServer((request, response) => {
      recorded.push(JSON.stringify(request.headers));
      response.end('{}');
    });
    await new Promise<void>((resolve) => recorder.listen(0, '127.0.0.1', resolve));
    recorderAt = `http://127.0.0.1:${(recorder.address() as AddressInfo).port}/`;
  });
  after(() => void recorder.close());
  beforeEach(async () => {
    recorded = [];
    folder = temporary();
    house = await workspace();
    furnish(house.service);
    for (const role of [...LESSER, 'owner'] as const) {
      const { url } = await house.api.addPerson({ body: { name: `a-${role}`, role } });
      cookies[role] = (await fetch(url, { redirect: 'manual' })).headers.get('set-cookie')!.split(';')[0]!;
    }
    const owner = as('owner');
    const issue = (name: string) =>
      house.service.keys.issue({ name, attributes: {}, stage: 'live', endpoints: ['*'], manage: true });
    const [live, revoked, removed] = [issue('live'), issue('revoked'), issue('removed')];
    writeFileSync(join(folder, 'own'), 'secret-of-the-owner');
    writeFileSync(join(folder, 'other'), TAKEN);
    for (const name of ['machine', 'spare'])
      await owner('POST', '/credentials', { name, source: { file: join(folder, 'own') }, origins: [recorderAt] });
    await owner('POST', '/workspace', { files: { 'servers/gone.yaml': serverFile('gone', 'gone') }, overwrite: false });
    ({ id: backup } = (await owner('POST', '/backups')).json);
    await owner('POST', `/keys/${revoked.summary.id}/revoke`);
    const away = async (path: string) => (await owner('DELETE', `${path}?force=true`)).json.removal.id as string;
    owned = {
      ...{ live: live.key, revoked: revoked.key, id: live.summary.id },
      gone: {
        id: await away(`/keys/${removed.summary.id}`),
        program: await away('/servers/gone'),
        credential: await away('/credentials/spare'),
      },
    };
    await owner('POST', '/workspace', {
      files: { 'servers/waiting.yaml': serverFile('waiting', 'waiting') },
      overwrite: false,
    });
    house.service.flows.drafts.save(walk('walk'));
    // An assistant proposes to run it.
    await house.api.updateWorkshop({ body: { on: true, open: ['walk'] } });
    const { key } = house.service.keys.issue({
      ...{ name: 'assistant', attributes: {}, stage: 'draft', endpoints: ['workshop'], manage: false, propose: true },
    });
    const assistant = await connect(house.service, key, 'workshop');
    const proposed = await callTool(assistant, 'propose_flow', {
      document: walk('walk', 'result: "${ steps.look.text }"\n'),
      why: 'It gives what it has found.',
    });
    expect(proposed.isError, JSON.stringify(proposed.content)).to.not.equal(true);
    proposal = (proposed.structuredContent as { proposal: string }).proposal;
    await assistant.close();
  });
  afterEach(async () => {
    await house.close();
    discard(folder);
  });

  /** The paths, by what they are called. Each may be refused or not: what counts is what came of it. */
  const PATHS: Record<string, (send: Send) => Promise<unknown>> = {
    import: async (send) => {
      for (const overwrite of [false, true])
        for (const files of [
          { 'servers/waiting.yaml': serverFile('waiting', 'imported') },
          { 'servers/fresh.yaml': serverFile('fresh', 'imported') },
          {
            'credentials.yaml': `format: pindro/credentials@1\ncredentials:\n  - { name: machine, kind: bearer, source: { file: ${JSON.stringify(join(folder, 'other'))} } }\n`,
          },
          {
            'keys.yaml':
              'format: pindro/keys@1\nkeys:\n  - { name: mine, caller: me, endpoints: ["*"], manage: true }\n',
          },
          { 'people.yaml': 'format: pindro/people@1\npeople:\n  - { name: a-builder, role: owner }\n' },
          { './people.yaml': 'format: pindro/people@1\npeople:\n  - { name: a-builder, role: owner }\n' },
        ])
          await send('POST', '/workspace', { files, overwrite });
      await send('POST', '/servers/fresh/refresh');
      await send('POST', '/servers/fresh/tools/list_trails/call', { arguments: {} });
    },
    'workspace file': async (send) => {
      const { files } = (await send('GET', '/workspace?people=true')).json;
      await send('POST', '/workspace/compare', { files: files ?? {} });
      await send('POST', '/workspace', { files: files ?? {}, overwrite: true });
    },
    bundle: async (send) => {
      const { text } = (await send('GET', '/flows/walk/bundle')).json;
      for (const overwrite of [false, true])
        await send('POST', '/bundles', { document: text ?? '', match: { servers: { waiting: 'waiting' } }, overwrite });
    },
    copy: async (send) => {
      await send('POST', '/servers/waiting/copy', { to: 'twin' });
      await send('POST', '/servers/twin/refresh');
      await send('POST', '/servers/twin/tools/list_trails/call', { arguments: {} });
      await send('POST', `/keys/${owned.id}/copy`, { name: 'mine' });
      await send('POST', '/credentials/machine/copy', { to: 'mine' });
      await send('PUT', '/credentials/mine', { source: { file: join(folder, 'other') } });
      await send('POST', '/flows/walk/copy', { to: 'stroll' });
    },
    'put back': async (send) => {
      for (const id of Object.values(owned.gone)) await send('POST', `/removals/${id}/put-back`);
      await send('POST', '/servers/gone/refresh');
    },
    restore: async (send) => {
      await send('GET', `/backups/${backup}/restore`);
      await send('POST', `/backups/${backup}/restore`, { reactivate: true });
    },
    fix: async (send) => {
      const { run } = (await as('owner')('POST', '/flows/walk/run', { input: {}, stage: 'draft' })).json;
      await send('POST', `/runs/${run}/cure`, { try: true });
      await send('POST', `/runs/${run}/cure`);
      await send('POST', `/runs/${run}/again`);
    },
    rename: async (send) => {
      await send('POST', '/servers/waiting/rename', { to: 'trails' });
      await send('POST', '/servers/trails/refresh');
      await send('POST', '/people/a-owner/rename', { to: 'nobody' });
      await send('POST', '/people/a-builder/rename', { to: 'owner' });
      await send('POST', '/credentials/machine/rename', { to: 'mine' });
      await send('PUT', '/credentials/mine', { source: { file: join(folder, 'other') } });
    },
    overwrite: async (send) => {
      await send('PUT', '/servers/waiting', { program: program('written') });
      await send('PUT', '/servers/waiting', { headers: { 'x-hut': 'larch' } });
      await send('POST', '/servers', { name: 'waiting', program: program('written'), overwrite: true });
      await send('PUT', '/credentials/machine', { source: { file: join(folder, 'other') } });
      await send('PUT', `/keys/${owned.id}`, { name: 'mine', caller: 'me', propose: true });
      await send('POST', `/keys/${owned.id}/rotate`, { overlap: '1h' });
      await send('POST', '/keys', { name: 'mine', endpoints: ['*'], stage: 'live', manage: true });
      await send('PUT', '/people/a-builder', { role: 'owner' });
      await send('POST', '/people', { name: 'a-builder', role: 'owner' });
    },
    proposal: async (send) => {
      await send('GET', `/workshop/proposals/${proposal}`);
      await send('POST', `/workshop/proposals/${proposal}/take`, { version: null });
    },
  };

  for (const [path, walkIt] of Object.entries(PATHS))
    it(`${path}: no program runs, no key or person gains, and no file of the machine is read`, async () => {
      const opens = async (key: string) =>
        (await fetch(`${house.service.url}/api/v1/status`, { headers: { authorization: `Bearer ${key}` } })).ok;
      const people = async () => (await house.api.listPeople()).items.map(({ name, role }) => `${name}: ${role}`);
      const before = await people();
      for (const role of LESSER) {
        const send = as(role);
        const gained: string[] = [];
        await walkIt(async (...what) => {
          const answer = await send(...what);
          if (typeof answer.json.key === 'string' && (await opens(answer.json.key))) gained.push(what.join(' '));
          expect(answer.status, `${role} ${what[0]} ${what[1]}: ${answer.text}`).to.be.below(500);
          return answer;
        });
        // What arrived is used: by the flow that calls the program and sends the credential.
        for (const flow of ['walk', 'stroll']) await send('POST', `/flows/${flow}/run`, { input: {}, stage: 'draft' });
        await send('POST', '/servers/waiting/refresh');
        for (const mark of ['waiting', 'imported', 'written', 'gone'])
          expect(existsSync(join(folder, `${mark}.ran`)), `${role}: program "${mark}" ran`).to.equal(false);
        expect(gained, `keys that open the API, for ${role}`).to.deep.equal([]);
        expect(await opens(owned.live), 'the key of the owner').to.equal(true);
        expect(await opens(owned.revoked), 'a revoked key').to.equal(false);
        expect(await people()).to.deep.equal(before);
        expect(recorded.join()).not.to.contain(TAKEN);
        if (role !== 'viewer') expect(recorded.join()).to.contain('secret-of-the-owner');
        expect((await send('GET', '/me')).json.role).to.equal(role);
      }
      // The same, by an owner, has its effect: what was tried is no dead end.
      if (path === 'put back') {
        await walkIt(as('owner'));
        expect((await house.api.listKeys()).items.map(({ name }) => name)).to.include('removed');
      }
      if (path === 'overwrite') {
        await walkIt(as('owner'));
        expect(existsSync(join(folder, 'written.ran'))).to.equal(true);
      }
    });
});

import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { type Lift, type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';
import { pindro } from '../support/process.js';
import { deadPort } from '../support/scripted-model.js';
import {
  discard,
  furnish,
  LIFT_KEY,
  RESERVE,
  startTestLift,
  temporary,
  type Workspace,
  workspace,
} from '../support/workspace.js';

describe('the command line', () => {
  let house: Workspace;
  let lift: Lift;
  let model: Model;
  let folder: string;
  before(async () => {
    house = await workspace();
    [lift, model] = await Promise.all([startTestLift(), startModel()]);
    folder = temporary();
    furnish(house.service);
  });
  after(async () => {
    await house.close();
    await Promise.all([lift.close(), model.close()]);
    discard(folder);
  });
  const run = (args: string[], input?: string) =>
    pindro(args, {
      env: { PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey },
      cwd: folder,
      ...(input !== undefined && { input }),
    });
  const good = async (args: string[], input?: string) => {
    const { code, out, err } = await run(args, input);
    expect(err, args.join(' ')).to.equal('');
    expect(code, args.join(' ')).to.equal(0);
    return out;
  };
  const json = async (args: string[], input?: string) => JSON.parse(await good([...args, '--json'], input));
  const file = (name: string, text: string) => {
    writeFileSync(join(folder, name), text);
    return name;
  };

  it('shows where the service is and how it is', async () => {
    expect(await good(['status']))
      .to.contain(house.service.url)
      .and.contain('address from PINDRO_URL');
    expect(await json(['status'])).to.include({ name: 'pindro', url: house.service.url });
    expect(await good(['--help'])).to.contain(`Service address: ${house.service.url} (from PINDRO_URL)`);
  });

  it('checks flows without a service, with line and column', async () => {
    const dead = { PINDRO_URL: 'http://127.0.0.1:1' };
    expect(await pindro(['flow', 'check', file('good.yaml', RESERVE)], { cwd: folder, env: dead })).to.include({
      code: 0,
      err: '',
    });
    const bad = await pindro(
      ['flow', 'check', 'good.yaml', file('bad.yaml', RESERVE.replace('input.hut }"', 'input.hutt }"'))],
      { cwd: folder, env: dead },
    );
    expect(bad.code).to.equal(1);
    expect(bad.out)
      .to.contain('✓ good.yaml')
      .and.match(/bad\.yaml:\d+:\d+ .*input has no "hutt"/)
      .and.contain('Did you mean "hut"?');
    const { code, err } = await pindro(['flow', 'check', 'missing.yaml'], { cwd: folder });
    expect([code, err]).to.satisfy(([number, text]: [number, string]) => number === 1 && text.includes('missing.yaml'));
  });

  it('imports, lists, shows, runs, publishes', async () => {
    const draft = RESERVE.replace('name: reserve-bunks', 'name: by-hand');
    expect(await good(['flow', 'import', file('by-hand.yaml', draft)])).to.contain('by-hand: draft saved');
    expect(await good(['flow', 'list'])).to.match(/by-hand\s+not published\s+3/);
    expect(await good(['flow', 'show', 'by-hand']))
      .to.contain('Add to')
      .and.contain('bookings');
    expect(await good(['flow', 'show', 'by-hand', '--document'])).to.equal(`${draft.trimEnd()}\n`);
    expect(
      await good(['flow', 'run', 'by-hand', '--set', 'hut=larch', '--set', 'night=2027-02-14', '--set', 'party=2']),
    )
      .to.contain('"party": 2')
      .and.contain('pindro run show r');
    expect(await json(['flow', 'publish', 'by-hand'])).to.deep.equal({ revision: 1, fresh: true, blockers: [] });
    expect(await good(['flow', 'publish', 'by-hand'])).to.contain('already');
    expect(await good(['row', 'list', 'bookings'])).to.match(/larch\s+2027-02-14\s+2\s+owner/);
    expect(await good(['row', 'history', 'bookings', '1'])).to.match(/added\s+owner\s+r\w+ step \w+\s+hut, night/);
    expect((await json(['row', 'history', 'bookings', '1'])).items[0]).to.include({ did: 'added' });
    expect((await run(['row', 'history', 'bookings', '99'])).err).to.contain('no row');
    expect(await good(['search', 'by', 'hand'])).to.match(/flow\s+by-hand\s+-/);
    expect(await good(['search', 'nothing-at-all'])).to.contain('No results for "nothing-at-all"');
  });

  it('exposes a flow and prints settings that can be pasted', async () => {
    const out = await good([
      'flow',
      'expose',
      'by-hand',
      '--endpoint',
      'counter',
      '--tool',
      'reserve',
      '--caller',
      'marit',
    ]);
    expect(out)
      .to.contain('tool reserve is on endpoint counter')
      .and.match(/key for marit, shown only once: pindro_\S+/);
    const settings = JSON.parse(/^\{[\s\S]*?^\}/m.exec(out)![0]);
    expect(settings.mcpServers.counter.headers.Authorization).to.match(/^Bearer pindro_/);
    const connect = await good(['endpoint', 'connect', 'counter']);
    expect(connect).to.contain('PASTE-YOUR-KEY-HERE').and.contain('curl');
    expect(await good(['endpoint', 'list'])).to.match(/counter\s+1\s+/);
    expect(await good(['endpoint', 'show', 'counter'])).to.contain('flow by-hand');
  });

  it('shows a failed run: tool, argument and reason on the first lines, then the tree', async () => {
    expect(await good(['server', 'attach', 'lift', lift.url, '--secret'], LIFT_KEY))
      .to.contain('lift attached: Valley Lift')
      .and.contain('schedule_load');
    file(
      'load.yaml',
      'format: pindro/flow@1\nname: send-load\ninput: { type: object, properties: { kg: { type: number } } }\nsteps: { lift: { kind: tool, with: { server: lift, tool: schedule_load, arguments: { hut: larch, day: 2027-02-14, weight_kg: "${ input.kg }" } } } }\n',
    );
    await good(['flow', 'import', 'load.yaml']);
    const failed = await run(['flow', 'run', 'send-load', '--set', 'kg=400']);
    expect(failed.code).to.equal(1);
    expect(failed.out).to.contain('at most 350 kg');
    const id = /run show (\S+)/.exec(failed.out)![1]!;
    const shown = await good(['run', 'show', id]);
    const [first, why, fix, where] = shown.split('\n');
    expect(first).to.equal(
      '✗ schedule_load of lift refused weight_kg = 400: The lift carries at most 350 kg; weight_kg was 400. Split the load.',
    );
    expect(why).to.contain('why');
    expect(fix).to.contain('fix').and.contain('weight_kg');
    expect(where).to.contain('step lift of flow send-load, at with › arguments › weight_kg');
    expect(shown).to.match(/✗ run send-load .*\n.*in .*\n.*error .*\n└─ ✗ step lift \(tool\)/);
    expect(await json(['run', 'show', id])).to.have.nested.property('findings[0].code', 'tool_error');
    expect(await good(['run', 'list', '--flow', 'send-load']))
      .to.contain('failed')
      .and.contain('refused weight_kg = 400');
    file(
      'load.yaml',
      'format: pindro/flow@1\nname: send-load\ninput: { type: object, properties: { kg: { type: number } } }\nsteps: { note: { kind: text, with: { text: "${ input.kg } kg" } } }\nresult: "${ steps.note.text }"\n',
    );
    await good(['flow', 'import', 'load.yaml']);
    expect(await good(['run', 'retry', id])).to.contain('400 kg');
  });

  it('lists, calls and refreshes the tools of a server', async () => {
    expect(await good(['server', 'list'])).to.match(/lift\s+ready\s+4/);
    expect(await good(['server', 'tools', 'lift']))
      .to.contain('weight_kg')
      .and.contain('one of kestrel, larch, stonewater');
    expect(await json(['server', 'call', 'lift', 'lift_status'])).to.deep.include({ isError: false });
    const refused = await run([
      'server',
      'call',
      'lift',
      'schedule_load',
      '{"hut":"larch","day":"2027-02-14","weight_kg":400}',
    ]);
    expect(refused).to.include({ code: 1 });
    expect(refused.out).to.contain('at most 350 kg');
    expect((await run(['server', 'call', 'lift', 'lift_status', '{oops'])).err).to.contain('not JSON');
    await good(['server', 'update', 'lift', '--set', 'station=valley']);
    expect(await good(['server', 'tools', 'lift'])).to.contain('supplied by a rule: "valley"');
    expect(await good(['server', 'call', 'lift', 'list_loads'])).to.contain(
      'with station from the argument rules of lift',
    );
    await good(['server', 'update', 'lift', '--no-rules']);
    expect(await good(['server', 'refresh', 'lift'])).to.contain('4 tools, no changes');
  });

  it('adds models and credentials without showing a secret', async () => {
    expect(await good(['credential', 'add', 'spare', '--account', 'nobody'], 'spare-secret-1')).to.contain(
      'stored encrypted',
    );
    expect(await good(['credential', 'list']))
      .to.contain('spare')
      .and.not.contain('spare-secret-1');
    expect(await good(['credential', 'update', 'spare'], 'other-secret-2')).to.contain('new secret');
    expect(await good(['credential', 'remove', 'spare'])).to.contain('Removed spare');
    expect(await good(['model', 'add', 'house', model.url, 'house-1'])).to.contain('house responds and is saved');
    expect(await good(['model', 'test', 'house'])).to.contain('Hello.');
    expect(await good(['model', 'list'])).to.contain('chat-completions');
  });

  it('talks to the tools of a server, one turn or a conversation', async () => {
    const one = await good(['chat', '--server', 'lift', '--message', 'What is the status of the lift?']);
    expect(one).to.contain('→ lift_status').and.contain('running true');
    const { out } = await run(
      ['chat', '--server', 'lift'],
      'Send 20 kg up to larch on 2027-02-14.\nList the loads for that hut.\n\n',
    );
    expect(out).to.contain('→ schedule_load').and.contain('→ list_loads (lift) {"hut":"larch"}');
    expect((await json(['chat', '--server', 'lift', '--message', 'status of the lift?'])).state).to.equal('done');
  });

  it('issues, lists and revokes keys', async () => {
    const { key, summary } = await json([
      'key',
      'issue',
      'tablet',
      '--endpoint',
      'huts',
      '--caller',
      'ines',
      '--attribute',
      'hut=kestrel',
    ]);
    expect(house.service.keys.present(`Bearer ${key}`).caller).to.deep.equal({
      id: 'ines',
      attributes: { hut: 'kestrel' },
    });
    const list = await good(['key', 'list']);
    expect(list).to.contain('tablet').and.not.contain(key);
    expect(await good(['key', 'revoke', summary.id])).to.contain('Revoked tablet');
    expect(await good(['sign-in'])).to.contain('/sign-in?code=');
  });

  it('ends with the code that says what kind of failure it was', async () => {
    expect((await run(['flow', 'show', 'nothing'])).code).to.equal(1);
    expect((await run(['flow', 'shw', 'x'])).code).to.equal(2);
    expect((await run(['flow', 'run'])).code).to.equal(2);
    expect((await run(['chat'])).code).to.equal(2);
    expect((await run(['run', 'list', '--limit', 'many'])).code).to.equal(2);
    const dead = await pindro(['status', '--url', `http://127.0.0.1:${await deadPort()}`]);
    expect(dead.code).to.equal(3);
    expect(dead.err).to.contain('No Pindro service responds').and.contain('npm run demo');
    const stranger = await pindro(['status', '--url', house.service.url, '--key', 'pindro_wrong']);
    expect(stranger.code).to.equal(4);
    expect((await pindro(['status', '--url', house.service.url], { cwd: folder })).code).to.equal(4);
  });

  it('says that a port is in use, and by which option to take another', async () => {
    const { port } = new URL(house.service.url);
    const taken = await pindro(['serve', '--port', port, '--data', join(folder, 'other')]);
    expect(taken.code).to.equal(1);
    expect(taken.err).to.contain(`Port ${port} on 127.0.0.1 is in use`).and.contain('--port');
    expect((await pindro(['serve', '--port', 'eighty'])).err).to.contain('from 0 to 65535');
    expect((await pindro(['serve', '--body-limit', 'much'])).code).to.equal(2);
  });

  it('prints the same problem as JSON, and suggests what was meant', async () => {
    const { out, code } = await run(['flow', 'show', 'reserve-bunk', '--json']);
    expect(code).to.equal(1);
    expect(JSON.parse(out)).to.deep.include({ code: 'not_found', status: 404, hint: 'Did you mean "reserve-bunks"?' });
    expect((await run(['flw'])).err).to.contain('Did you mean flow?');
  });
});

import { expect } from 'chai';
import { pindro, type Running, startReady } from '../support/process.js';
import { discard, temporary } from '../support/workspace.js';

describe('people at the command line', function () {
  this.timeout(120_000);
  const data = temporary();
  let service: Running<{ url: string; apiKey: string }>;
  const run = (args: string[], input?: string) =>
    pindro(args, {
      env: { PINDRO_URL: service.contract.url, PINDRO_KEY: service.contract.apiKey },
      ...(input !== undefined && { input }),
    });
  const enter = async (name: string, password: string) => {
    const response = await fetch(`${service.contract.url}/sign-in`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name, password }),
    });
    return response.status;
  };
  before(async () => {
    service = await startReady(['serve', '--json', '--port', '0', '--data', data]);
  });
  after(async () => {
    await service.stop();
    discard(data);
  });

  it('come in by a link, are given roles and passwords, and are taken out', async () => {
    const added = await run(['person', 'add', 'tobias', '--role', 'operator']);
    expect(added.out)
      .to.contain('tobias is operator')
      .and.match(/\/sign-in\?code=\S+/);
    const link = /http\S+code=\S+/.exec(added.out)![0];
    expect((await fetch(link, { redirect: 'manual' })).status).to.equal(303);
    expect((await fetch(link, { redirect: 'manual' })).status).to.equal(401);

    const role = await run(['person', 'role', 'tobias', 'builder']);
    expect(role.out).to.contain('tobias is builder: also creates flows');
    // The password comes by a pipe or is asked for, and never stands among the arguments, which others can see.
    const set = await run(['person', 'password', 'tobias'], 'a quiet hut on the ridge\n');
    expect(set.code, set.err).to.equal(0);
    expect(set.out).to.not.contain('quiet');
    expect(await enter('tobias', 'a quiet hut on the ridge')).to.equal(200);
    expect(await enter('tobias', 'something else')).to.equal(401);
    expect((await run(['person', 'list'])).out).to.match(/tobias +builder +password or link/);

    expect((await run(['person', 'remove', 'tobias'])).code).to.equal(0);
    expect(await enter('tobias', 'a quiet hut on the ridge')).to.equal(401);
  });

  it('are refused with what to do', async () => {
    const unknown = await run(['person', 'link', 'nobody']);
    expect(unknown.code).to.equal(1);
    expect(unknown.err).to.contain('no person named "nobody"');
    const last = await run(['person', 'remove', 'owner']);
    expect(last.err).to.contain('owner is the only owner').and.contain('Give somebody else the role owner first');
    const short = await run(['person', 'password', 'owner'], 'short');
    expect(short.code).to.equal(1);
    expect(short.err).to.contain('at least 10');
    const role = await run(['person', 'add', 'x', '--role', 'king']);
    expect(role.code).to.equal(2);
  });
});

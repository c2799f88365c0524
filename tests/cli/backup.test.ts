import { existsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { createClient } from '@pindro/contract';
import { expect } from 'chai';
import { pindro, type Running, startReady } from '../support/process.js';
import { callTool, connect, discard, temporary, until } from '../support/workspace.js';

type Ready = { url: string; apiKey: string };

describe('a backup', () => {
  const data = temporary();
  let service: Running<Ready>;
  let env: Record<string, string>;
  before(async () => {
    service = await startReady(['serve', '--json', '--port', '0', '--data', data]);
    env = { PINDRO_URL: service.contract.url, PINDRO_KEY: service.contract.apiKey };
  });
  after(async () => {
    await service.stop();
    discard(data);
  });
  const json = async (...words: string[]) => {
    const { code, out, err } = await pindro([...words, '--json'], { env, input: 'a-secret-that-is-sealed' });
    expect(code, `${words.join(' ')} ${out}${err}`).to.equal(0);
    return JSON.parse(out);
  };

  it('is made while the service works, and brings everything back while it runs', async function () {
    this.timeout(60_000);
    const api = createClient({ url: service.contract.url, key: service.contract.apiKey });
    await json('credential', 'add', 'post');
    await json('table', 'create', 'cabins', 'deck', 'beds:whole');
    await json('row', 'add', 'cabins', 'deck=upper', 'beds=2');
    await json('flow', 'create', 'hello');
    const { key } = await json('flow', 'expose', 'hello', '--endpoint', 'desk');
    let outgoingValue = true;
    const work = (async () => {
      for (; outgoingValue; ) await api.runFlow({ name: 'hello', body: { input: { who: 'Ines' } } }).catch(() => null);
    })();
    const backup = await json('backup');
    outgoingValue = false;
    await work;
    const runs = (await api.listRuns({ query: { limit: 500 } })).items.length;
    await json('table', 'remove', 'cabins');
    await json('flow', 'remove', 'hello', '--force');
    const restored = await json('restore', backup.id);
    expect(restored.restored).to.equal(backup.id);
    expect((await api.tableRows({ name: 'cabins' })).items).to.deep.equal([{ id: 1, deck: 'upper', beds: 2 }]);
    expect((await api.listRuns({ query: { limit: 500 } })).items.length).to.be.at.most(runs);
    const client = await connect({ url: service.contract.url }, key, 'desk');
    expect((await callTool(client, 'hello', { who: 'Marit' })).isError ?? false).to.equal(false);
    await client.close();
    expect((await json('credential', 'show', 'post')).kind).to.equal('bearer');
    // What was until then is kept too.
    expect((await json('backup', '--list')).items.map(({ id }: { id: string }) => id)).to.include(restored.before);
    await json('backup', '--remove', restored.before);
    expect(existsSync(join(data, 'backups', restored.before))).to.equal(false);
  });

  it('that cannot be used leaves everything as it is', async () => {
    const backup = await json('backup');
    const file = join(backup.folder, 'pindro.db');
    writeFileSync(file, 'not a database');
    const refused = await pindro(['restore', backup.id], { env });
    expect([refused.code, refused.err]).to.satisfy(
      ([code, err]: [number, string]) => code === 1 && err.includes('pindro.db is not a database'),
    );
    // It begins like one, and only the start finds out.
    writeFileSync(file, `SQLite format 3\0${'x'.repeat(10_000)}`);
    await pindro(['restore', backup.id], { env });
    await until(
      async () => (await pindro(['table', 'list'], { env })).out.includes('cabins'),
      'the service to be back',
    );
    expect((await pindro(['restore', 'nothing'], { env })).err).to.contain('no backup');
  });
});

import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { createClient } from '@pindro/contract';
import { startWholesaler } from '@pindro/standins';
import { expect } from 'chai';
import { pindro, type Running, startReady } from '../support/process.js';
import { discard, temporary, until } from '../support/workspace.js';

interface Ready {
  url: string;
  apiKey: string;
}
const FLOW = `# bookings of one hut
format: pindro/flow@1
name: asks
steps:
  note: { kind: table, with: { table: log, do: add, row: { what: before } } } # must happen once
  ask: { kind: approve, after: [note], with: { title: "Go on?" } }
  more: { kind: table, after: [ask], with: { table: log, do: add, row: { what: "\${ steps.ask.by }" } } }
result: "\${ steps.more.row.what }"
`;

describe('building at the command line', function () {
  this.timeout(120_000);
  let folder: string;
  let served: Running<Ready>;
  const api = () => createClient({ url: served.contract.url, key: served.contract.apiKey });
  const run = async (...args: string[]) =>
    pindro(args, { env: { PINDRO_URL: served.contract.url, PINDRO_KEY: served.contract.apiKey }, cwd: folder });
  const start = async () => {
    served = await startReady(['serve', '--json', '--port', '0', '--data', join(folder, 'data')]);
  };
  beforeEach(async () => {
    folder = temporary();
    await start();
    await api().createTable({ body: { name: 'log', columns: { what: 'text' } } });
  });
  afterEach(async () => {
    await served.stop('SIGKILL');
    discard(folder);
  });

  it('a waiting approval is answered after kill -9 and a restart, with nothing before it done twice', async () => {
    await api().importFlow({ body: { document: FLOW } });
    const told = await run('flow', 'run', 'asks');
    expect(told.code).to.equal(0);
    expect(told.out).to.contain('waiting').and.contain('Approval required: Go on?');
    const [id] = (await api().listApprovals({})).items.map((one) => one.run);
    await served.stop('SIGKILL');
    await start();
    const shown = (await run('run', 'show', id!)).out;
    expect(shown)
      .to.contain('step ask is waiting: Approval required: Go on?')
      .and.contain(`pindro approval approve ${id}`);
    const listed = await run('approval', 'list');
    expect(listed.out).to.contain(id!).and.contain('Go on?');
    expect((await run('approval', 'approve', id!, '--note', 'fine')).out).to.contain('approved');
    await until(async () => (await api().getRun({ id: id! })).state === 'done', 'the run to end');
    const rows = (await api().tableRows({ name: 'log' })).items.map((row) => row.what);
    expect(rows).to.deep.equal(['owner', 'before']);
    expect((await run('approval', 'reject', id!)).err).to.contain('is not waiting for an approval');
  });

  it('a waiting run also outlives an orderly stop, and asks only once', async () => {
    await api().importFlow({ body: { document: FLOW } });
    await run('flow', 'run', 'asks');
    expect(await served.stop('SIGTERM')).to.equal(0);
    await start();
    const { items } = await api().listApprovals({});
    expect(items).to.have.length(1);
    expect((await api().getRun({ id: items[0]!.run })).state).to.equal('waiting');
    await run('approval', 'reject', items[0]!.run);
    await until(async () => (await api().getRun({ id: items[0]!.run })).error?.code === 'not_approved', 'the refusal');
  });

  it('a flow is exported, changed in a text editor with its comments, checked without a service, imported and published', async () => {
    await api().importFlow({ body: { document: FLOW } });
    await run('flow', 'publish', 'asks', '--note', 'first');
    const { out } = await run('flow', 'export', 'asks');
    const file = join(folder, 'asks.yaml');
    writeFileSync(file, out.replace('Go on?', 'Shall we go on?'));
    const checked = await pindro(['flow', 'check', file], { env: { PINDRO_URL: 'http://127.0.0.1:1' }, cwd: folder });
    expect([checked.code, checked.err]).to.deep.equal([0, '']);
    expect((await run('flow', 'import', file)).code).to.equal(0);
    const compared = await run('flow', 'compare', 'asks');
    expect(compared.out)
      .to.contain('• Step ask: title changed')
      .and.contain('+   ask:')
      .and.contain('# must happen once');
    await run('flow', 'publish', 'asks');
    expect((await run('flow', 'activate', 'asks', '1')).out).to.contain('revision 1 is live');
    expect((await run('flow', 'export', 'asks', '--revision', '1')).out).to.contain('"Go on?"');
  });

  it('keeps a whole workspace as a folder that differs readably', async () => {
    await api().importFlow({ body: { document: FLOW } });
    expect((await run('workspace', 'export', 'files')).out).to.contain('2 files in files, 2 of them changed');
    expect((await run('workspace', 'diff', 'files')).out).to.contain('No differences.');
    const file = join(folder, 'files/flows/asks.yaml');
    writeFileSync(file, readFileSync(file, 'utf8').replace('# must happen once', '# just once'));
    expect((await run('workspace', 'diff', 'files')).out)
      .to.contain('~ flows/asks.yaml changed')
      .and.contain('# just once');
    const refused = await run('workspace', 'import', 'files');
    expect([refused.code, refused.out]).to.satisfy(
      ([code, out]: [number, string]) =>
        code === 1 && out.includes('It already exists with') && out.includes('Nothing was imported'),
    );
    expect((await run('workspace', 'import', 'files', '--overwrite')).out).to.contain('✓ flows/asks.yaml');
    mkdirSync(join(folder, 'files/flows'), { recursive: true });
    writeFileSync(join(folder, 'files/flows/old.yaml'), 'x: 1');
    expect((await run('workspace', 'export', 'files', '--prune')).out).to.contain('deleted: flows/old.yaml');
    expect((await run('workspace', 'diff', 'nowhere')).err).to.contain('Folder nowhere does not exist');
  });

  it('makes flows of an OpenAPI document and opens ways into them', async () => {
    const wholesaler = await startWholesaler({ key: 'k-1234567' });
    await api().addCredential({
      body: { name: 'ridge', kind: 'header', header: 'X-Wholesale-Key', secret: 'k-1234567' },
    });
    expect((await run('document', 'inspect', wholesaler.document)).out)
      .to.contain('listStock')
      .and.contain('a key in the header X-Wholesale-Key');
    expect(
      (await run('document', 'import', wholesaler.document, 'listStock', '--name', 'ridge', '--credential', 'ridge'))
        .out,
    ).to.contain('✓ flow ridge-list-stock');
    expect((await run('flow', 'run', 'ridge-list-stock', '--set', 'item=tea')).out).to.contain('"on_hand": 80');
    expect((await run('document', 'list')).out).to.contain('Ridge Provisions');
    expect((await run('document', 'refresh', 'ridge')).out)
      .to.contain('ridge-list-stock same')
      .and.contain('placeOrder is new');
    await run('flow', 'publish', 'ridge-list-stock');
    const hook = await run('entry', 'hook', 'ridge-list-stock', '--auth', 'open', '--methods', 'GET', '--json');
    const { url, id } = JSON.parse(hook.out) as { url: string; id: string };
    expect(await (await fetch(`${url}?item=coffee`)).json()).to.have.nested.property('items[0].on_hand', 70);
    expect((await run('entry', 'schedule', 'ridge-list-stock', '0 6 * * 1', '--zone', 'UTC')).out).to.contain(
      'next at',
    );
    expect((await run('entry', 'list')).out)
      .to.contain('/hooks/ridge-list-stock')
      .and.contain('0 6 * * 1 UTC');
    expect((await run('entry', 'disable', id.slice(0, 8))).out).to.contain('is disabled');
    expect((await fetch(url)).status).to.equal(404);
    expect((await run('entry', 'remove', id)).code).to.equal(0);
    expect((await run('document', 'inspect', 'none.json')).err).to.contain('File none.json does not exist');
    await wholesaler.close();
  });
});

import { type Lift, type Mailbox, startMailbox, startWholesaler, type Wholesaler } from '@pindro/standins';
import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { expectAccessible, openBrowser } from '../support/browser.js';
import { Builder } from '../support/builder.js';
import { callTool, connect, LIFT_KEY, startTestLift, until, type Workspace, workspace } from '../support/workspace.js';

const CONSOLE = new URL('../../../packages/console/dist', import.meta.url).pathname;

describe('building flows in the console', function () {
  this.timeout(180_000);
  let house: Workspace;
  let mailbox: Mailbox;
  let lift: Lift;
  let wholesaler: Wholesaler;
  let browser: Browser;
  let page: Page;
  let build: Builder;
  const faults: string[] = [];

  before(async () => {
    mailbox = await startMailbox({ smtpPort: 0, httpPort: 0, messages: [], onMessage: () => {} });
    wholesaler = await startWholesaler({ key: 'ridge-key-for-tests' });
    lift = await startTestLift();
    house = await workspace({ console: CONSOLE, smtp: `smtp://127.0.0.1:${mailbox.smtpPort}` });
    const { tables, credentials, servers } = house.service;
    tables.definitions.create('huts', { name: 'text', bunks: 'whole' });
    tables.definitions.create('bookings', { hut: 'text', night: 'date', party: 'whole' });
    for (const [name, bunks] of [
      ['kestrel', 24],
      ['larch', 16],
    ] as const)
      tables.rows.add({ table: 'huts', row: { name, bunks }, unless: null });
    credentials.add({
      name: 'wholesaler',
      kind: 'header',
      header: 'X-Wholesale-Key',
      account: '',
      secret: 'ridge-key-for-tests',
    });
    await servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
    browser = await openBrowser();
    page = await (await browser.newContext({ viewport: { width: 1360, height: 900 } })).newPage();
    page.setDefaultTimeout(20_000);
    page.on('pageerror', (error) => faults.push(error.message));
    page.on('console', (message) => message.type() === 'error' && faults.push(message.text()));
    await page.goto(house.service.createSignInLink());
    build = new Builder(page, house.service.url);
  });
  after(async () => {
    await browser.close();
    await house.close();
    await Promise.all([mailbox.close(), lift.close(), wholesaler.close()]);
  });
  afterEach(async function () {
    if (this.currentTest?.state === 'failed' && process.env.SHOT) await page.screenshot({ path: process.env.SHOT });
    expect(faults.splice(0), 'errors in the browser').to.deep.equal([]);
  });

  it('reserve-bunks, with approval above eight people and a confirmation mail, from nothing', async () => {
    await build.make('Reserve bunks');
    await expectAccessible(page, 'an empty flow');
    await build.input('hut', { about: 'Name of the hut' });
    await build.input('night');
    await build.input('party', { type: 'integer' });
    await build.add('table', 'place');
    await build.choose('Table', 'huts');
    await build.conditions('Where', [['name', 'is', '${ input.hut }']]);
    await build.add('first branch', 'size');
    await build.fill('Condition', '${ input.party > 8 }');
    await build.add('approval', 'ask');
    await build.fill('Decision to make', '${ input.party } people in ${ input.hut }?');
    await page.getByLabel('No longer after size').click();
    await build.after('size.yes');
    await build.add('table', 'book');
    await build.choose('Action', 'add');
    await build.choose('Table', 'bookings');
    await build.pairs('Row', { hut: '${ input.hut }', night: '${ input.night }', party: '${ input.party }' });
    await build.after('size.otherwise');
    await build.aside.getByLabel('any of them is enough').check();
    await build.add('send a mail', 'confirm');
    await build.fill('To', '${ input.hut }@alder-ridge.example');
    await build.fill('Subject', 'Booking ${ steps.book.row.id }');
    await build.fill('Text', '${ input.party } bunks on ${ input.night }');
    await build.result('${ steps.book.row }');
    await build.saved();
    await expectAccessible(page, 'a drawn flow');

    await build.run({ hut: 'larch', night: '2027-03-01', party: '4' });
    await build.aside.getByText('done').first().waitFor();
    await page.locator('.svelte-flow__node[data-id="ask"]').getByText('skipped').waitFor();
    await until(() => mailbox.messages.some((mail) => mail.subject === 'Booking 1'), 'the confirmation');

    await build.run({ party: '12' });
    await build.aside.getByText('Approval required: 12 people in larch?').waitFor();
    await page.getByRole('link', { name: 'View pending approval' }).click();
    await page.getByRole('heading', { name: '12 people in larch?' }).waitFor();
    await expectAccessible(page, 'what waits for a decision');
    await page.getByRole('button', { name: 'Approve' }).click();
    await until(() => mailbox.messages.some((mail) => mail.subject === 'Booking 2'), 'the second confirmation');
    expect(
      house.service.tables.rows.find({ table: 'bookings', where: [], sort: 'party', descending: false, limit: 9 }),
    ).to.deep.equal([
      { id: 1, hut: 'larch', night: '2027-03-01', party: 4 },
      { id: 2, hut: 'larch', night: '2027-03-01', party: 12 },
    ]);
  });

  it('month-report: for each, shape and text', async () => {
    await build.make('Month report');
    await build.input('month');
    await build.add('table', 'huts');
    await build.choose('Table', 'huts');
    await build.add('for each', 'each_hut');
    expect(await build.field('Items').inputValue()).to.equal('${ steps.huts.rows }');
    await build.fill('Result', '${ steps.line.value }');
    await build.aside.getByRole('button', { name: /nested steps/ }).click();
    await page.getByText('inside each hut').waitFor();
    await build.add('table', 'found');
    await build.choose('Table', 'bookings');
    await build.conditions('Where', [
      ['hut', 'is', '${ item.name }'],
      ['night', 'contains', '${ input.month }'],
    ]);
    await build.add('shape', 'line');
    await build.pairs('Value', {
      hut: '${ item.name }',
      guests: '${ steps.found.rows.map(r, r.party).sum() }',
    });
    await page.getByRole('navigation', { name: 'Path in the flow' }).getByRole('button').click();
    await build.select('each_hut');
    await build.add('text', 'report');
    await build.fill('Text', '${ steps.each_hut.results.map(l, l.hut + " " + string(l.guests)).join(", ") }');
    await build.result('${ steps.report.text }');
    await build.saved();
    await build.run({ month: '2027-03' });
    await build.aside.getByText('kestrel 0, larch 16').waitFor();
  });

  it('order-provisions: look at the stock, order, send the load up', async () => {
    await build.make('Order provisions');
    await build.add('HTTP request', 'stock');
    await build.fill('Address', `${wholesaler.url}/stock`);
    await build.pairs('Parameters', { item: 'x' });
    await build.choose('Credential', 'wholesaler');
    // What a field needs is asked of the caller with one gesture.
    await build.aside.getByLabel('Supplied by item', { exact: true }).selectOption('caller');
    await build.aside
      .getByRole('group', { name: 'Create an input for item' })
      .getByLabel('Description')
      .fill('What is ordered');
    await build.aside.getByRole('button', { name: 'Create input' }).click();
    expect(await build.field('item').inputValue()).to.equal('${ input.item }');
    await build.run({ item: 'flour' });
    await build.aside.getByText('done').first().waitFor();

    // With a run behind it, the fields know what is there.
    await build.select('stock');
    await build.add('HTTP request', 'order');
    await build.choose('Method', 'POST');
    await build.fill('Address', `${wholesaler.url}/orders`);
    await build.choose('Credential', 'wholesaler');
    await build.choose('Type of JSON body', 'fields');
    await build.pairs('JSON body', { hut: 'larch', day: '2027-03-02', lines: '' });
    await build.choose('Type of lines', 'list');
    await build.group('lines').getByRole('button', { name: 'Add to lines' }).click();
    await build.choose('Type of lines 1', 'fields');
    await build.pairs('lines 1', { item: '${ input.item }', quantity: '2' });
    await build.add('call a tool', 'load');
    expect(await build.field('Tool server').inputValue()).to.equal('lift');
    await build.fill('Tool', 'schedule_load');
    // The arguments of the tool are its own fields now.
    const load = build.group('Arguments');
    await build.choose('Hut', 'larch', load);
    await build.fill('Day', '2027-03-02', load);
    await build.unfold('Goods', load);
    await build.field('Goods').fill('${ stock.body.items[0].i');
    await build.aside.getByRole('option', { name: /steps\.stock\.body\.items\[0\]\.item/ }).click();
    expect(await build.field('Goods').inputValue()).to.equal('${ steps.stock.body.items[0].item }');
    await build.aside.getByText('value flour').waitFor();
    await build.fill('Weight kg', '${ steps.order.body.weight_kg }', load);
    await build.result('${ steps.load.data.load }');
    await build.saved();
    await build.run({});
    await build.aside.getByText(/^L-/).waitFor();
    expect(wholesaler.orders).to.have.length(1);
  });

  it('goes step by step, and holds a result so that it is not fetched again', async () => {
    await page.goto(`${house.service.url}/flows/order-provisions`);
    await build.aside.getByRole('tab', { name: 'Try' }).click();
    await build.aside.getByRole('button', { name: 'Step by step' }).click();
    await build.aside.getByText('Paused before stock', { exact: true }).waitFor();
    await build.aside.getByRole('button', { name: 'Continue' }).click();
    await build.aside.getByText('Paused before order', { exact: true }).waitFor();
    await build.aside.getByRole('button', { name: 'Stop' }).click();
    await build.aside.getByText('was cancelled').waitFor();
    expect(wholesaler.orders).to.have.length(1);

    await build.run({});
    await build.aside.getByText(/^L-/).waitFor();
    expect(wholesaler.orders).to.have.length(2);
    await build.select('order');
    await build.aside.getByRole('button', { name: 'Stub result' }).click();
    await page.locator('.svelte-flow__node[data-id="order"]').getByText('stubbed').waitFor();
    await expectAccessible(page, 'a step whose result is held');
    await build.run({});
    await build.aside.getByText(/^L-/).waitFor();
    expect(wholesaler.orders).to.have.length(2);
    await build.select('load');
    await build.aside.getByRole('button', { name: 'Run this step' }).click();
    await page.locator('.svelte-flow__node[data-id="load"]').getByText(/^done/).waitFor();
  });

  it('undoes, copies to another flow, switches off and removes by keyboard', async () => {
    await page.goto(`${house.service.url}/flows/month-report`);
    await build.select('report');
    const names = () =>
      page
        .locator('.svelte-flow__node')
        .evaluateAll((nodes) => nodes.map((node) => (node as unknown as { dataset: { id: string } }).dataset.id));
    await page.locator('.svelte-flow__node[data-id="report"]').focus();
    await page.keyboard.press('Control+d');
    await page.locator('.svelte-flow__node[data-id="report_2"]').waitFor();
    await page.keyboard.press('o');
    await page.locator('.svelte-flow__node[data-id="report_2"]').getByText('disabled', { exact: true }).waitFor();
    await page.keyboard.press('Delete');
    await until(async () => !(await names()).includes('report_2'), 'the copy to be gone');
    await page.keyboard.press('Control+z');
    await page.locator('.svelte-flow__node[data-id="report_2"]').waitFor();
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await until(async () => (await names()).length === 3, 'everything to be undone');
    await build.select('huts');
    await build.aside.getByLabel('Name of the step').fill('all_huts');
    await build.aside.getByLabel('Name of the step').press('Enter');
    await build.saved();
    const { document } = await house.api.getFlow({ name: 'month-report' });
    expect(document).to.have.nested.property('steps.each_hut.with.list', '${ steps.all_huts.rows }');
    expect(document).to.have.deep.nested.property('steps.each_hut.after', ['all_huts']);
  });

  it('shows mistakes where they are while typing, and what it may be meant', async () => {
    await page.goto(`${house.service.url}/flows/month-report`);
    await build.select('report');
    await build.fill('Text', '${ steps.each_hat.results }');
    await build.aside.getByText('steps has no "each_hat"').first().waitFor();
    await page.getByRole('button', { name: '1 mistake' }).click();
    await page.getByRole('button', { name: /report › text/ }).click();
    await build.fill('Text', '${ steps.each_hut.count } huts');
    await build.saved();
  });

  it('publishes with a note, and shows what the next draft changes, drawn and line by line', async () => {
    const publish = async (note: string) => {
      await page.getByRole('button', { name: 'Publish', exact: true }).click();
      const dialog = page.getByRole('dialog');
      await dialog.getByLabel(/^Note/).fill(note);
      await dialog.getByRole('button', { name: 'Publish', exact: true }).click();
      await page
        .getByText(/Revision \d is live/)
        .first()
        .waitFor();
      await dialog.waitFor({ state: 'hidden' });
    };
    await publish('first');
    await build.select('report');
    await build.fill('Text', 'All ${ steps.each_hut.count } huts');
    await build.saved();
    await publish('more words');
    await page.getByRole('button', { name: 'Revisions' }).click();
    await page.getByText(/^\d difference/).waitFor();
    await page.getByText('Step report: text changed').waitFor();
    await page.locator('.svelte-flow__node[data-id="report"]').getByText('changed').waitFor();
    await expectAccessible(page, 'a comparison');
    await page.getByRole('button', { name: 'Make live' }).click();
    await until(
      async () => (await house.api.getFlow({ name: 'month-report' })).revision === 1,
      'revision 1 to be live',
    );
  });

  it('makes a quick tool that a client can call', async () => {
    await page.goto(`${house.service.url}/flows`);
    await page.getByRole('button', { name: 'Quick tool' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('Name of the tool').fill('check_stock');
    await dialog.getByLabel('Description').fill('Look up how many of an item the wholesaler has.');
    await dialog.getByRole('button', { name: 'Continue' }).click();
    await build.field('Address', dialog).fill(`${wholesaler.url}/stock`);
    await build.choose('Credential', 'wholesaler', dialog);
    await dialog.getByLabel('New name in Parameters').fill('item');
    await dialog.getByLabel('New name in Parameters').press('Enter');
    await dialog.getByLabel('Supplied by item', { exact: true }).selectOption('caller');
    await dialog.getByRole('button', { name: 'Create input' }).click();
    await dialog.getByText('Supplied by the caller: item').waitFor();
    await expectAccessible(page, 'a quick tool');
    await dialog.getByRole('button', { name: 'Publish and expose' }).click();
    await dialog.getByText('Tool check_stock is on endpoint main').waitFor();
    const key = (await dialog.getByRole('region', { name: 'key', exact: true }).textContent())!.trim();
    const client = await connect(house.service, key, 'main');
    expect((await client.listTools()).tools[0]!.inputSchema).to.deep.include({ required: ['item'] });
    const answer = await callTool(client, 'check_stock', { item: 'coffee' });
    expect(answer.content[0]!.text).to.contain('coffee');
    await client.close();
  });

  it('makes flows of an OpenAPI document, which call the real thing', async () => {
    await page.goto(`${house.service.url}/flows`);
    await page.getByRole('button', { name: 'From OpenAPI' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('Address of the document').fill(wholesaler.document);
    await dialog.getByRole('button', { name: 'Inspect', exact: true }).click();
    await dialog.getByText('It requires a key in the header X-Wholesale-Key').waitFor();
    await dialog.getByLabel('Look up an order').uncheck();
    await dialog.getByLabel(/Credential to send/).selectOption('wholesaler');
    await expectAccessible(page, 'choosing operations');
    await dialog.getByRole('button', { name: 'Create 2 flows' }).click();
    await dialog.getByRole('link', { name: 'ridge-list-stock' }).click();
    await page.getByRole('heading', { level: 1, name: 'List what is in stock' }).waitFor();
    await build.run({ item: 'candles' });
    await build.aside.getByText('candles').first().waitFor();
    await page.goto(`${house.service.url}/flows`);
    await page.getByRole('button', { name: 'From OpenAPI' }).click();
    await page.getByRole('button', { name: 'Refresh' }).click();
    await page.getByText('No changes for these flows.').waitFor();
    await page.getByRole('button', { name: 'Rename ridge' }).click();
    await page.getByLabel('New name of the OpenAPI document').fill('wholesale');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Rename wholesale' }).waitFor();
    await expectAccessible(page, 'documents that were taken before');
    await page.getByRole('button', { name: 'More about wholesale' }).click();
    await page.getByRole('menuitem', { name: 'Remove' }).click();
    await page.getByText('Imported documents').waitFor({ state: 'detached' });
    expect((await house.api.listDocuments()).items).to.deep.equal([]);
    expect((await house.api.getFlow({ name: 'ridge-list-stock' })).mistakes).to.deep.equal([]);
  });

  it('takes a starter over, groups flows by label, and pastes a whole document from anywhere', async () => {
    await page.goto(`${house.service.url}/flows`);
    await page.getByRole('button', { name: 'New flow' }).click();
    await page.getByLabel('Title').fill('Our list');
    await page.getByLabel(/A report from a list/).check();
    await page.getByRole('button', { name: 'Create' }).click();
    await page.getByRole('heading', { level: 1, name: 'Our list' }).waitFor();
    await build.aside.getByLabel('Labels, separated by commas').fill('reports, huts');
    await build.aside.getByLabel('Labels, separated by commas').press('Tab');
    await build.saved();
    await page.locator('.svelte-flow__node[data-id="report"]').focus();
    const text = 'format: pindro/flow@1\nname: elsewhere\nsteps:\n  report: { kind: text, with: { text: again } }\n';
    await page.evaluate((pasted) => {
      const data = new DataTransfer();
      data.setData('text/plain', pasted);
      window.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data }));
    }, text);
    await page.locator('.svelte-flow__node[data-id="report_2"]').waitFor();
    await page.keyboard.press('l');
    await page.getByRole('button', { name: 'Arrange the steps' }).click();
    await page.goto(`${house.service.url}/flows`);
    await page.getByRole('group', { name: 'Labels' }).getByRole('button', { name: 'reports' }).click();
    await page.getByRole('link', { name: 'Our list' }).waitFor();
    expect(await page.getByRole('link', { name: 'Month report' }).count()).to.equal(0);
  });

  it('opens ways in, changes them and switches them off', async () => {
    await page.goto(`${house.service.url}/flows/month-report?view=ways`);
    await page.getByRole('button', { name: /^Webhook/ }).click();
    await page.getByRole('group', { name: 'Methods' }).getByLabel('PUT').check();
    await page.getByText('More: Allowed origins').click();
    await page.getByRole('button', { name: /^Maximum body size/ }).click();
    await page.getByLabel('Maximum body size').fill('a lot');
    await page.getByLabel('Authentication').selectOption('signature');
    await page.getByRole('button', { name: 'Open' }).click();
    await page.getByRole('alert').getByText('must be a size such as 512KiB or 4MiB').waitFor();
    faults.splice(0);
    await page.getByLabel('Maximum body size').fill('64KiB');
    await page.getByRole('button', { name: 'Open' }).click();
    await page.getByRole('heading', { name: 'Signing secret' }).waitFor();
    await page.getByText('POST, PUT; requires a signature').waitFor();
    const secret = () => page.getByRole('region', { name: 'secret', exact: true }).textContent();
    const first = await secret();
    await page.getByRole('button', { name: 'Copy Webhook' }).click();
    await page.getByText('requires a signature').nth(1).waitFor();
    const copied = (await house.api.listEntries({ query: { flow: 'month-report' } })).items.find(({ on }) => !on)!;
    expect(copied.settings).to.deep.include({ methods: ['POST', 'PUT'], guard: 'signature', bodyLimit: '64KiB' });
    expect(await secret()).not.to.equal(first);
    await page.getByRole('button', { name: 'Remove Webhook' }).last().click();
    await page.getByText('requires a signature').nth(1).waitFor({ state: 'detached' });
    await expectAccessible(page, 'a new hook');
    await page.getByRole('button', { name: /^Schedule/ }).click();
    await page.getByLabel('Cron expression', { exact: true }).fill('0 0 31 2 *');
    await page.getByRole('button', { name: 'Open' }).click();
    await page.getByRole('alert').getByText('never fires').waitFor();
    faults.splice(0);
    await page.getByLabel('Cron expression', { exact: true }).fill('0 6 1 * *');
    await page.getByRole('button', { name: 'Open' }).click();
    await page.getByRole('alert').getByText('"month" is missing').waitFor();
    faults.splice(0);
    await page.getByLabel('Month', { exact: true }).fill('2027-03');
    await page.getByRole('button', { name: 'Open' }).click();
    await page.getByText('0 6 1 * * in UTC').waitFor();
    await page.getByRole('button', { name: 'Disable' }).first().click();
    await page.getByRole('button', { name: 'Enable' }).waitFor();
  });
});

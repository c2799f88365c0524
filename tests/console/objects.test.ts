import { readFile } from 'node:fs/promises';
import { type Lift, startModel } from '@pindro/standins';
import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { expectAccessible } from '../support/browser.js';
import { type ConsolePage, consolePage } from '../support/console-page.js';
import { LIFT_KEY, startTestLift, until, type Workspace } from '../support/workspace.js';

const BOOK = `format: pindro/flow@1
name: book
title: Book bunks
labels: [desk]
input: { type: object, required: [hut], properties: { hut: { type: string } } }
steps:
  add: { kind: table, with: { table: stays, do: add, row: { hut: "\${ input.hut }", party: 3 } } }
result: "\${ steps.add.row }"
`;

describe('things whole in the console', function () {
  this.timeout(120_000);
  let console: ConsolePage;
  let house: Workspace;
  let page: Page;
  let lift: Lift;
  let model: Awaited<ReturnType<typeof startModel>>;
  const open = (path: string) => console.open(path);

  before(async () => {
    [console, lift, model] = await Promise.all([consolePage(), startTestLift(), startModel({})]);
    ({ house, page } = console);
    await house.service.servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
  });
  after(() => Promise.all([console.close(), lift.close(), model.close()]));
  afterEach(function () {
    return console.calm(this.currentTest?.state === 'failed');
  });

  it('makes a table, fills it from CSV, and refuses a file with what does not fit before a row is added', async () => {
    await open('/tables');
    await page.keyboard.press('n');
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('Name', { exact: true }).fill('stays');
    await dialog.getByLabel('Name of column 1').fill('hut');
    for (const [index, name, type] of [
      [2, 'night', 'date'],
      [3, 'guests', 'integer'],
      [4, 'paid', 'boolean'],
    ] as const) {
      await dialog.getByRole('button', { name: 'Add a column' }).click();
      await dialog.getByLabel(`Name of column ${index}`).fill(name);
      await dialog.getByLabel(`Type of column ${index}`).selectOption({ label: type });
    }
    await expectAccessible(page, 'making a table');
    await dialog.getByRole('button', { name: 'Create table' }).click();
    await page.getByRole('heading', { name: 'stays', level: 1 }).waitFor();
    const csv = (text: string) => ({ name: 'stays.csv', mimeType: 'text/csv', buffer: Buffer.from(text) });
    const file = page.getByLabel(/^CSV file to import/);
    await file.setInputFiles(csv('hut,night,guests\nlarch,2027-02-14,two\n'));
    await page.getByText('Line 2: "two" in column "guests" is not an integer.').waitFor();
    expect((await house.api.tableRows({ name: 'stays' })).count).to.equal(0);
    await file.setInputFiles(csv('hut,night,guests,paid\nlarch,2027-02-14,2,true\n"kestrel, north",2027-02-15,4,\n'));
    await page.getByText('2 rows added.').waitFor();
    await page.getByRole('gridcell', { name: 'kestrel, north' }).waitFor();
    await expectAccessible(page, 'a grid');
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Export CSV' }).click(),
    ]);
    expect(await readFile((await download.path())!, 'utf8')).to.equal(
      'id,hut,night,guests,paid\r\n1,larch,2027-02-14,2,true\r\n2,"kestrel, north",2027-02-15,4,\r\n',
    );
    await page.getByLabel('Update by').selectOption('hut');
    await file.setInputFiles(csv('hut,guests\nlarch,2\n'));
    await page.getByText('0 rows added, 1 updated.').waitFor();
  });

  it('renames a column, and flows follow; corrects a row by keyboard; leads to the run that made it', async () => {
    await open('/tables/stays');
    await page.getByRole('button', { name: /^Column guests/ }).click();
    await page.getByRole('menuitem', { name: /Rename, change, remove/ }).click();
    await page.getByRole('dialog').getByLabel('Name', { exact: true }).fill('party');
    await page.getByRole('dialog').getByRole('button', { name: 'Save' }).click();
    await page.getByRole('button', { name: /^Column party/ }).waitFor();

    await house.api.importFlow({ body: { document: BOOK } });
    const { run } = await house.api.runFlow({ name: 'book', body: { input: { hut: 'larhc' } } });
    const cell = page.getByRole('gridcell', { name: 'larhc' });
    await cell.click();
    await page.keyboard.press('Enter');
    await page.keyboard.press('Control+a');
    await page.keyboard.type('larch');
    // Whoever types on does not wait for the service: the next keys go to the next cell, also while it answers.
    const row = `${house.service.url}/api/tables/stays/rows/3`;
    await page.route(row, (route) => setTimeout(() => void route.continue(), 400), { times: 1 });
    await page.keyboard.press('Enter');
    // From cell to cell: a date is nothing, a number is refused as words, yes and no turn round with a key.
    await page.keyboard.press('ArrowUp');
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('ArrowRight');
    await page.keyboard.type('many');
    await page.keyboard.press('Enter');
    await page.getByRole('alert').getByText('The value must be an integer.').waitFor();
    await page.keyboard.press('Escape');
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('Space');
    await until(async () => (await house.api.getRow({ name: 'stays', row: '3' })).row.paid === true, 'it to be paid');
    await until(async () => (await house.api.getRow({ name: 'stays', row: '3' })).row.hut === 'larch', 'the row');
    await page.keyboard.press('Delete');
    await until(async () => (await house.api.getRow({ name: 'stays', row: '3' })).row.paid === null, 'nothing again');
    await page.keyboard.press('Control+h');
    const dialog = page.getByRole('dialog', { name: 'Row 3 of stays' });
    await dialog.getByText('Changed hut by owner').waitFor();
    await expectAccessible(page, 'the history of a row');
    await dialog.getByRole('link', { name: 'in the run, step add' }).click();
    await page.getByRole('heading', { name: 'Run of book' }).waitFor();
    expect(page.url()).to.contain(run);
  });

  it('filters and sorts by what the address keeps, and removes a row with a way back', async () => {
    await open('/tables/stays?where=%7B%22hut%22%3A%22larch%22%7D');
    await page.getByText('2 rows', { exact: true }).waitFor();
    await page.getByRole('button', { name: /^Column party/ }).click();
    await page.getByRole('menuitem', { name: 'Sort ascending' }).click();
    await page.getByRole('columnheader', { name: /party/ }).and(page.locator('[aria-sort=ascending]')).waitFor();
    await page.reload();
    const first = page.getByRole('row').nth(1);
    await first.getByRole('gridcell', { name: '2', exact: true }).waitFor();
    await first.getByRole('gridcell').first().click();
    await page.keyboard.press('Control+Delete');
    await page.getByText('Removed row 1.').waitFor();
    await page.getByText('1 row', { exact: true }).waitFor();
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByText('2 rows', { exact: true }).waitFor();
    const owner = async () => (await house.api.getTable({ name: 'stays' })).owner;
    for (const column of ['hut', '']) {
      await page.getByLabel('Callers of a tool can access').selectOption(column);
      await until(async () => ((await owner()) ?? '') === column, 'the owner to be kept');
    }
  });

  it('scrolls through twenty thousand rows, and draws those in sight', async () => {
    house.service.tables.definitions.create('many', { n: 'whole' });
    // In one statement: each row that is added on its own is told to the console.
    const { definitions } = house.service.tables;
    const { driver } = (definitions as unknown as { database: { driver: { exec(sql: string): void } } }).database;
    driver.exec(
      'WITH RECURSIVE s(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM s WHERE i < 20000) INSERT INTO data_many (n) SELECT i FROM s',
    );
    await open('/tables/many');
    await page.getByText('20,000 rows').waitFor();
    await page.getByRole('gridcell').first().click();
    await page.keyboard.press('Control+End');
    await page.getByRole('gridcell', { name: '1', exact: true }).first().waitFor();
    expect(await page.getByRole('row').count()).to.be.lessThan(60);
    await house.api.removeTable({ name: 'many', query: { force: 'true' } });
  });

  it('renames in place, tells what a removal breaks, and puts back', async () => {
    await open('/servers/lift');
    await page.getByRole('button', { name: /^lift ?: rename/ }).click();
    await page.getByLabel('New name of the tool server').fill('cable');
    await page.keyboard.press('Enter');
    await page.waitForURL('**/servers/cable');
    await open('/tables');
    await page.getByRole('link', { name: 'stays' }).focus();
    await page.keyboard.press('F2');
    await page.getByLabel('New name of the table').fill('nights');
    await page.keyboard.press('Enter');
    await page.getByRole('link', { name: 'nights' }).waitFor();
    await page.getByRole('link', { name: 'nights' }).focus();
    await page.keyboard.press('Delete');
    const dialog = page.getByRole('dialog', { name: 'Remove table nights?' });
    await dialog.getByText('flow "book"').waitFor();
    await expectAccessible(page, 'what a removal would break');
    await dialog.getByRole('button', { name: 'Remove anyway' }).click();
    await page.getByText('Removed table nights.').waitFor();
    await open('/workspace');
    await page.getByText('Removed in the last ten minutes').waitFor();
    const gone = page.getByRole('listitem').filter({ hasText: 'table nights' });
    await gone.getByRole('button', { name: 'Undo' }).click();
    await until(async () => (await house.api.listTables()).items.some(({ name }) => name === 'nights'), 'Create table');
  });

  it('makes, tests, changes, copies models and credentials', async () => {
    await open('/models');
    await page.getByRole('button', { name: 'Add connection' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('Name', { exact: true }).fill('house');
    await dialog.getByLabel('Base address').fill(model.url);
    await dialog.getByLabel('Model name').fill('hut-keeper');
    await dialog.getByRole('button', { name: 'Test and add' }).click();
    await page.getByRole('button', { name: 'Test house' }).click();
    await page.getByText(/^house responded in/).waitFor();
    await page.getByRole('button', { name: 'house', exact: true }).click();
    await page.getByRole('dialog').getByLabel('Base address').fill('http://127.0.0.1:9/v1');
    await page.getByRole('dialog').getByRole('button', { name: 'Save', exact: true }).click();
    await page.getByRole('dialog').getByRole('alert').waitFor();
    await page.getByRole('dialog').getByRole('button', { name: 'Save even if it does not respond' }).click();
    await page.getByText('http://127.0.0.1:9/v1').waitFor();
    await page.getByRole('button', { name: 'More about house' }).click();
    await page.getByRole('menuitem', { name: 'Copy' }).click();
    await page.getByText('house-2').first().waitFor();
    await open('/credentials');
    await page.getByRole('button', { name: 'Add credential' }).click();
    await page.getByRole('dialog').getByLabel('Name', { exact: true }).fill('desk');
    await page.getByRole('dialog').getByLabel('Key', { exact: true }).fill('a-secret-of-the-desk');
    await page.getByRole('dialog').getByRole('button', { name: 'Save' }).click();
    await page.getByRole('button', { name: 'desk', exact: true }).click();
    await page
      .getByRole('dialog')
      .getByLabel(/^Owner/)
      .fill('the wardens');
    await expectAccessible(page, 'a credential');
    await page.getByRole('dialog').getByRole('button', { name: 'Save' }).click();
    await page.getByRole('cell', { name: 'the wardens' }).waitFor();
    expect(await page.content()).to.not.contain('a-secret-of-the-desk');
  });

  it('sets a password for somebody else, and the message limit of an endpoint', async () => {
    await house.api.addPerson({ body: { name: 'tobias', role: 'builder' } });
    await open('/people');
    expect(await page.getByRole('button', { name: 'Set password for owner' }).count()).to.equal(0);
    await page.getByRole('button', { name: 'Set password for tobias' }).click();
    const dialog = page.getByRole('dialog', { name: 'Password for tobias' });
    await dialog.getByLabel('Password').fill('short');
    await dialog.getByRole('button', { name: 'Save' }).click();
    await dialog.getByRole('alert').getByText('at least 10 characters long').waitFor();
    await dialog.getByLabel('Password').fill('larch in the snow');
    await expectAccessible(page, 'a password');
    await dialog.getByRole('button', { name: 'Save' }).click();
    await page.getByRole('cell', { name: 'password or link' }).waitFor();
    const signIn = (password: string) =>
      fetch(`${house.service.url}/sign-in`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ name: 'tobias', password }),
      });
    expect((await signIn('short')).status).to.equal(401);
    expect((await signIn('larch in the snow')).ok).to.equal(true);
    await house.api.createEndpoint({ body: { document: 'format: pindro/endpoint@1\nname: desk\ntools: {}\n' } });
    await open('/endpoints/desk?view=about');
    const limit = page.getByLabel('Maximum size of a client message');
    expect(await limit.inputValue()).to.equal('1MiB');
    await limit.fill('much');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await page
      .getByRole('alert')
      .getByText(/512KiB or 4MiB/)
      .waitFor();
    await limit.fill('64KiB');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await page.getByText('Saved.').waitFor();
    const { document } = await house.api.getEndpoint({ name: 'desk' });
    expect(document).to.include({ body_limit: '64KiB' });
    await open('/endpoints/desk?view=about');
    expect(await limit.inputValue()).to.equal('64KiB');
  });

  it('takes a workspace out, shows how files differ, and takes them in', async () => {
    await open('/workspace');
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Export' }).click(),
    ]);
    const text = await readFile((await download.path())!, 'utf8');
    const parcel = JSON.parse(text) as { files: Record<string, string> };
    parcel.files['flows/book.yaml'] = parcel.files['flows/book.yaml']!.replace('Book bunks', 'Book a stay');
    const buffer = Buffer.from(JSON.stringify({ format: 'pindro/files@1', files: parcel.files }));
    await page
      .getByLabel('Choose files')
      .setInputFiles({ name: 'workspace.json', mimeType: 'application/json', buffer });
    await page.getByRole('heading', { name: '1 difference' }).waitFor();
    await page.getByText('flows/book.yaml').click();
    await page.getByText('+ title: Book a stay').waitFor();
    await expectAccessible(page, 'a difference of workspaces');
    await page.getByRole('button', { name: 'Import and overwrite' }).click();
    await page.getByText(/^Imported:/).waitFor();
    expect((await house.api.getFlow({ name: 'book' })).title).to.equal('Book a stay');
  });

  it('finds everything from one key, recent things first, and does what is asked', async () => {
    await open('/flows');
    await page.keyboard.press('Control+k');
    const search = page.getByRole('combobox', { name: 'Search everything' });
    await page
      .getByRole('option', { name: /recent/ })
      .first()
      .waitFor();
    await search.fill('schedule');
    await page.getByRole('option', { name: /schedule_load.*in cable.*tool/ }).waitFor();
    await expectAccessible(page, 'the search');
    await search.fill('book');
    await page.getByRole('option', { name: /^Book a stay.*flow$/ }).waitFor();
    await page.keyboard.press('Enter');
    await page.getByRole('heading', { name: 'Book a stay', level: 1 }).waitFor();
    const [latest] = (await house.api.listRuns({ query: { flow: 'book' } })).items;
    await page.keyboard.press('Control+k');
    await search.fill(latest!.id);
    await page.getByRole('option', { name: /Run of book/ }).waitFor();
    await search.fill('publish');
    await page.getByRole('option', { name: /Publish Book a stay/ }).click();
    await page.getByRole('dialog', { name: 'Publish Book a stay' }).waitFor();
    await page.keyboard.press('Escape');
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    await page.keyboard.press('?');
    await page.getByRole('dialog', { name: 'Keys' }).getByText('add a step').waitFor();
    await expectAccessible(page, 'the keys');
    await page.keyboard.press('Escape');
    await open('/flows');
    await page.keyboard.press('[');
    await page.getByRole('button', { name: /Collapse/, pressed: true }).waitFor();
    await page.keyboard.press('[');
  });

  it('can be walked by keyboard alone on every page: everything has the focus once, and nothing keeps it', async () => {
    const PAGES = ['/', '/flows', '/flows/book', '/flows/book?view=ways', '/chat', '/runs', '/approvals', '/endpoints'];
    PAGES.push(
      '/keys',
      '/servers',
      '/servers/cable',
      '/models',
      '/credentials',
      '/tables',
      '/tables/nights',
      '/workspace',
      '/people',
    );
    for (const path of PAGES) {
      await open(path);
      await page.waitForTimeout(250);
      await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
      const seen = new Set<string>();
      let same = 0;
      for (let press = 0; press < 160 && same < 4; press++) {
        await page.keyboard.press('Tab');
        const at = await page.evaluate(() => {
          const element = document.activeElement as HTMLElement;
          if (element === document.body) return 'the end';
          const all = [...document.querySelectorAll('*')];
          const style = getComputedStyle(element);
          const outlined =
            style.outlineStyle !== 'none' || style.boxShadow !== 'none' || element.matches('input, textarea, select');
          return `${all.indexOf(element)}${outlined ? '' : ' without an outline'}`;
        });
        expect(at, path).to.not.contain('without an outline');
        same = seen.has(at) ? same + 1 : 0;
        seen.add(at);
        if (at === 'the end') break;
      }
      const reachable = await page.evaluate(
        () =>
          [
            ...document.querySelectorAll<HTMLElement>('a[href], button, input, select, textarea, [tabindex="0"]'),
          ].filter(
            (element) => element.checkVisibility() && !(element as HTMLButtonElement).disabled && element.tabIndex >= 0,
          ).length,
      );
      expect(seen.size, `${path}: reached of ${reachable}`).to.be.at.least(Math.min(reachable, 155) - 1);
    }
  });
});

import { createClient } from '@pindro/contract';
import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { expectAccessible, openBrowser } from '../support/browser.js';
import { type DemoContract, type Running, startDemo } from '../support/process.js';
import { discard, temporary, until } from '../support/workspace.js';

describe('the demo, for somebody from outside', function () {
  this.timeout(120_000);
  let data: string;
  let demo: Running<DemoContract>;
  let browser: Browser;
  let page: Page;
  const faults: string[] = [];
  const api = () => createClient({ url: demo.contract.url, key: demo.contract.apiKey });

  before(async () => {
    data = temporary();
    [demo, browser] = await Promise.all([startDemo(data), openBrowser()]);
    page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    page.setDefaultTimeout(20_000);
    page.on('pageerror', (error) => faults.push(error.message));
    page.on('console', (message) => message.type() === 'error' && faults.push(message.text()));
  });
  after(async () => {
    await browser.close();
    await demo.stop();
    discard(data);
  });

  it('a form page takes a booking and sends its confirmation', async () => {
    await page.goto(`${demo.contract.url}/forms/reserve-group`);
    await expectAccessible(page, 'the form in light');
    await page.emulateMedia({ colorScheme: 'dark' });
    await expectAccessible(page, 'the form in dark');
    await page.emulateMedia({ colorScheme: 'light' });
    await page.getByLabel('Hut').selectOption('larch');
    await page.getByLabel('Night').fill('2027-05-01');
    await page.getByLabel('Party').fill('3');
    await page.getByLabel('Contact').fill('guest@alder-ridge.example');
    await page.getByRole('button', { name: 'Reserve' }).click();
    await page.getByRole('status').getByText('A confirmation is on its way').waitFor();
    const mails = async () => (await api().listMails()).items.map((mail) => `${mail.to} ${mail.subject}`);
    await until(
      async () => (await mails()).includes('guest@alder-ridge.example 3 bunks in larch on 2027-05-01'),
      'the mail',
    );
  });

  it('a form page lists values that depend on another field, and Enter sends it', async () => {
    const lists = `format: pindro/flow@1
name: rooms-of-hut
input: { type: object, properties: { hut: { type: string } } }
steps: { a: { kind: shape, with: { value: "\${ [input.hut + '-1', input.hut + '-2'] }" } } }
result: "\${ steps.a.value }"
`;
    const takes = `format: pindro/flow@1
name: book-room
input:
  type: object
  required: [hut, room, party]
  properties:
    hut: { type: string, x-values: { table: huts, value: name } }
    room: { type: string, x-values: { flow: rooms-of-hut, with: [hut] } }
    party: { type: integer }
steps: { a: { kind: text, with: { text: x } } }
`;
    for (const document of [lists, takes]) await api().importFlow({ body: { document } });
    for (const name of ['rooms-of-hut', 'book-room']) await api().publishFlow({ name, body: {} });
    await api().createEntry({ body: { flow: 'book-room', settings: { kind: 'form', message: 'Your room is kept.' } } });
    await page.goto(`${demo.contract.url}/forms/book-room`);
    await page.getByLabel('Hut').selectOption('larch');
    await page.getByRole('button', { name: 'Load choices for Room' }).click();
    await page.getByLabel('Room', { exact: true }).selectOption('larch-2');
    await expectAccessible(page, 'a form with listed values');
    await page.getByLabel('Party').fill('2');
    await page.getByLabel('Party').press('Enter');
    await page.getByRole('status').getByText('Your room is kept.').waitFor();
  });

  it('keeps what was written when the hut is full, and says so', async () => {
    await page.goto(`${demo.contract.url}/forms/reserve-group`);
    for (let count = 0; count < 2; count++) {
      await page.getByLabel('Hut').selectOption('larch');
      await page.getByLabel('Night').fill('2027-05-02');
      await page.getByLabel('Party').fill('8');
      await page.getByLabel('Contact').fill('guest@alder-ridge.example');
      await page.getByRole('button', { name: 'Reserve' }).click();
      await page.getByRole('status').waitFor();
      await page.goBack();
    }
    await page.getByLabel('Hut').selectOption('larch');
    await page.getByLabel('Night').fill('2027-05-02');
    await page.getByLabel('Party').fill('2');
    await page.getByLabel('Contact').fill('late@alder-ridge.example');
    await page.getByRole('button', { name: 'Reserve' }).click();
    await page.getByRole('alert').getByText('larch has no room for 2').waitFor();
    expect(await page.getByLabel('Contact').inputValue()).to.equal('late@alder-ridge.example');
    await expectAccessible(page, 'a refused form');
    // The browser itself reports an answer that is not a success.
    faults.splice(0);
  });

  it('a chat page answers, and remembers after it is loaded again', async () => {
    await page.goto(`${demo.contract.url}/chats/warden-desk`);
    await page.getByText('Ask about bunks, or send a load up.').waitFor();
    await page.getByLabel('Your message').fill('How many bunks are free in larch on 2027-05-01?');
    await page.keyboard.press('Enter');
    await page.getByText(/free 13/).waitFor();
    await expectAccessible(page, 'the chat');
    await page.reload();
    await page.getByText('How many bunks are free in larch on 2027-05-01?').waitFor();
    await page.getByText(/free 13/).waitFor();
    await page.setViewportSize({ width: 360, height: 700 });
    expect(await page.evaluate('document.documentElement.scrollWidth')).to.be.at.most(360);
    await page.setViewportSize({ width: 1280, height: 800 });
    expect(faults.splice(0)).to.deep.equal([]);
  });

  it('a hook answers a program that has no key, and a schedule knows when it is due', async () => {
    const response = await fetch(`${demo.contract.url}/hooks/bunk-availability`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ hut: 'stonewater', night: '2027-06-01' }),
    });
    expect(await response.json()).to.deep.equal({ hut: 'stonewater', night: '2027-06-01', bunks: 40, free: 40 });
    const { items } = await api().listEntries({ query: { flow: 'month-report' } });
    expect(items[0]!.nextAt).to.match(/-01T06:00:00/);
  });

  it('what waits in the demo outlives its restart', async () => {
    const [waiting] = (await api().listApprovals({})).items;
    expect(waiting!.title).to.match(/^12 people in stonewater on /);
    await demo.stop();
    demo = await startDemo(data);
    const [still] = (await api().listApprovals({})).items;
    expect(still!.run).to.equal(waiting!.run);
    await api().decide({ run: still!.run, body: { path: still!.path, decision: 'approved', note: 'Welcome' } });
    await until(async () => (await api().getRun({ id: still!.run })).state === 'done', 'the run to end');
    const mails = (await api().listMails()).items.map((mail) => mail.to[0]);
    expect(mails).to.include('club@alder-ridge.example');
  });
});

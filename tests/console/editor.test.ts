import { type Lift, startModel } from '@pindro/standins';
import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { expectAccessible, openBrowser } from '../support/browser.js';
import { Builder } from '../support/builder.js';
import { patience } from '../support/patience.js';
import { LIFT_KEY, startTestLift, until, type Workspace, workspace } from '../support/workspace.js';

const CONSOLE = new URL('../../../packages/console/dist', import.meta.url).pathname;
const SMALL = `# kept by the wardens
format: pindro/flow@1
name: small
title: Small
input: { type: object, properties: { party: { type: integer } } }
steps:
  a: { kind: text, with: { text: "\${ input.party } guests" } } # counted twice
  b: { kind: text, after: [a], with: { text: after } }
`;

describe('the editor as a workbench', function () {
  this.timeout(120_000);
  let house: Workspace;
  let lift: Lift;
  let model: Awaited<ReturnType<typeof startModel>>;
  let browser: Browser;
  let page: Page;
  let build: Builder;
  const faults: string[] = [];
  const stepsOf = async (name: string) =>
    (
      (await house.api.getFlow({ name })).document as {
        steps: Record<string, { with: object; [key: string]: unknown }>;
      }
    ).steps;

  before(async () => {
    lift = await startTestLift();
    model = await startModel({});
    house = await workspace({ console: CONSOLE });
    await house.service.servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'hut-keeper' } });
    browser = await openBrowser();
    page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    page.setDefaultTimeout(15_000);
    page.on('pageerror', (error) => faults.push(error.message));
    await page.goto(house.service.createSignInLink());
    build = new Builder(page, house.service.url);
  });
  after(async () => {
    await browser.close();
    await house.close();
    await Promise.all([lift.close(), model.close()]);
  });
  beforeEach(async () => {
    await house.api.importFlow({ body: { document: SMALL } });
  });
  afterEach(async function () {
    if (this.currentTest?.state === 'failed' && process.env.SHOT) await page.screenshot({ path: process.env.SHOT });
    expect(faults.splice(0), 'errors in the browser').to.deep.equal([]);
  });

  it('builds an agent with its toolbox from nothing, by forms alone, and tries it', async () => {
    await build.make('Warden desk');
    await build.add('agent', 'desk');
    // What is obvious stands there already: the only model, the message, which the flow now asks for.
    expect(await build.field('Model').inputValue()).to.equal('house');
    expect(await build.field('Message').inputValue()).to.equal('${ input.message }');
    await build.fill('Instructions', 'You keep the desk of ${ caller.id }. Look things up before you act.');
    const memory = build.group('Memory');
    await build.unfold('Turns', memory);
    await build.fill('Turns', '6', memory);

    await build.group('Toolbox').getByRole('button', { name: 'Choose tools' }).click();
    const box = page.getByRole('dialog');
    await box.getByLabel('Find tools').fill('lift load');
    await expectAccessible(page, 'the picker of tools');
    for (const tool of ['list_loads', 'schedule_load', 'cancel_load'])
      await box.getByRole('checkbox', { name: new RegExp(`^${tool} `) }).check();
    const lift = box.getByRole('region', { name: 'Tool server lift' });
    await lift.getByText('3 of 4 tools').waitFor();
    await lift.getByLabel('New tools:').selectOption('allow');
    // Of one tool, one argument is set, one is worked out, and the rest are left to the model.
    await lift.getByRole('button', { name: 'Configure schedule_load' }).click();
    await build.fill('When to use', 'Once the warden has confirmed weight and day.', box);
    await box.getByLabel('Supplied by hut', { exact: true }).selectOption('value');
    await build.choose('Value of hut', 'larch', box);
    await box.getByLabel('Supplied by goods', { exact: true }).selectOption('value');
    await build.fill('Value of goods', '${ caller.id } asked', box);
    await box.getByLabel('Supplied by priority', { exact: true }).selectOption('nobody');
    // What the model reads stands beside it: neither what is set nor what is left out.
    const read = box.getByRole('region', { name: 'Preview for the model' });
    await until(async () => {
      const said = await read.innerText();
      return said.includes('Once the warden') && said.includes('weight_kg') && !/goods|priority/.test(said);
    }, 'what the model reads');
    await box.getByText(/The model is offered 3 tools, about \d+ tokens/).waitFor();
    await lift.getByText('hut, goods set').waitFor();
    await expectAccessible(page, 'an agent with its toolbox');
    await box.getByRole('button', { name: 'Close' }).click();
    await build.result('${ steps.desk.answer }');
    await build.saved();

    expect((await stepsOf('warden-desk')).desk!.with).to.deep.equal({
      model: 'house',
      message: '${ input.message }',
      memory: { key: ['${ session.id }'], turns: 6 },
      instructions: 'You keep the desk of ${ caller.id }. Look things up before you act.',
      toolbox: [
        {
          server: 'lift',
          use: ['!lift_status'],
          tools: {
            schedule_load: {
              when: 'Once the warden has confirmed weight and day.',
              arguments: { hut: { set: 'larch' }, goods: { set: '${ caller.id } asked' }, priority: 'omit' },
            },
          },
        },
      ],
    });
    await build.run({ message: 'Send 120 kg up on 2027-02-14.' });
    await build.aside.getByText('done').first().waitFor();
    const listed = await house.api.callServerTool({ name: 'lift', tool: 'list_loads', body: { arguments: {} } });
    expect(listed.text).to.contain('owner asked').and.contain('larch');
  });

  it('greets a new step calmly, tells what is left, and leads to each', async () => {
    await build.open('small');
    await build.select('b');
    await build.add('send a mail', 'tell');
    await build.aside.getByText('Not configured yet.').first().waitFor();
    expect(await build.aside.getByText('is missing').count()).to.equal(0);
    await build.node('tell').getByText('3 to configure').waitFor();
    await build.select('a');
    await page.getByRole('button', { name: '3 mistakes' }).click();
    await page.getByRole('button', { name: /tell › subject/ }).click();
    await build.aside.getByText('"subject" is missing').waitFor();
    await expectAccessible(page, 'a step with mistakes');
  });

  it('fills the window from 1024 pixels on, and flows below', async () => {
    const scrolls = () =>
      page.evaluate(() => document.documentElement.scrollHeight > document.documentElement.clientHeight);
    for (const [width, height] of [
      [1024, 700],
      [1280, 800],
      [1920, 1080],
    ] as const) {
      await page.setViewportSize({ width, height });
      await build.open('small');
      expect(await scrolls(), `at ${width}`).to.equal(false);
      const canvas = (await page.getByRole('region', { name: 'Canvas' }).boundingBox())!;
      expect(canvas.height).to.be.greaterThan(height - 100);
      expect(canvas.width).to.be.greaterThan(width / 2);
    }
    await page.setViewportSize({ width: 390, height: 844 });
    await build.open('small');
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).to.be.at.most(390);
    expect(await scrolls()).to.equal(true);
    await expectAccessible(page, 'the editor on a phone');
    await page.setViewportSize({ width: 1280, height: 800 });
  });

  it('has a panel that is made wider, hidden and found again, and remembers it', async () => {
    await build.open('small');
    const divider = page.getByRole('separator', { name: 'Width of the panel' });
    const width = async () => Number(await divider.getAttribute('aria-valuenow'));
    const before = await width();
    await divider.focus();
    await page.keyboard.press('ArrowLeft');
    expect(await width()).to.equal(before + 24);
    await build.open('small');
    expect(await width()).to.equal(before + 24);
    await page.locator('body').click({ position: { x: 300, y: 600 } });
    await page.keyboard.press(']');
    await build.aside.waitFor({ state: 'hidden' });
    await page.keyboard.press(']');
    await build.aside.waitFor();
  });

  it('keeps where cards stand and headings in the draft, so that everybody and every export has them', async () => {
    await build.open('small');
    const card = build.node('b').locator('h3');
    const box = (await card.boundingBox())!;
    await page.mouse.move(box.x + 60, box.y + 5);
    await page.mouse.down();
    await page.mouse.move(box.x + 190, box.y + 45, { steps: 5 });
    await page.mouse.up();
    await build.saved();
    await until(async () => (await stepsOf('small')).b!.place, 'the place to be kept');
    expect((await house.api.getFlow({ name: 'small' })).text).to.match(/place: \[ ?-?\d+, -?\d+ ?\]/);
    await build.select('a');
    await build
      .node('b')
      .locator('h3')
      .click({ modifiers: ['Shift'] });
    await page.getByRole('button', { name: 'Group selected steps' }).click();
    const heading = page.getByLabel('Name of the group New group');
    await heading.fill('Greeting');
    await heading.press('Tab');
    await page.getByRole('button', { name: 'Collapse Greeting' }).click();
    await page.getByText('2 steps: a, b').waitFor();
    expect(await build.node('a').count()).to.equal(0);
    await expectAccessible(page, 'a folded stretch');
    await page.getByRole('button', { name: 'Expand Greeting' }).click();
    await build.node('a').waitFor();
    await build.saved();
    expect((await stepsOf('small')).a!.under).to.equal('Greeting');
    const { files } = await house.api.exportWorkspace({});
    expect(files['flows/small.yaml']).to.contain('under: Greeting').and.contain('place:');
  });

  it('names branches at their handles before anything is tied to them', async () => {
    await build.open('small');
    await build.select('b');
    await build.add('first branch', 'way');
    await build.node('way').locator('.handle-name', { hasText: 'otherwise' }).waitFor();
    await build.add('text', 'after_way');
    await page.getByLabel('No longer after way').click();
    await build.after('way.otherwise');
    await build.node('way').locator('.handle-name', { hasText: 'otherwise' }).waitFor({ state: 'detached' });
  });

  it('offers the values in reach under a field, with what they held last; arrows and Enter write one', async () => {
    await house.api.runFlow({ name: 'small', body: { input: { party: 7 } } });
    await build.open('small');
    await build.select('b');
    const field = build.field('Text');
    await field.fill('');
    const values = build.aside.getByRole('listbox', { name: 'Values for Text' });
    await values.getByRole('option', { name: /^input\.party\s+7$/ }).waitFor();
    await field.press('ArrowDown');
    await field.press('Enter');
    expect(await field.inputValue()).to.equal('${ input.party }');
    await build.aside.getByText('value 7').waitFor();
    // What is typed by hand is closed behind the cursor; a brace that is typed all the same is not doubled.
    await field.fill('');
    await page.keyboard.type('For ${ input.party } of ${ par');
    await page.keyboard.press('Enter');
    await page.keyboard.type('.');
    expect(await field.inputValue()).to.equal('For ${ input.party } of ${ input.party }.');
    await build.aside.getByText('value For 7 of 7.').waitFor();
  });

  it('waits for the next real call, follows it on the canvas, and keeps its input', async () => {
    await house.api.publishFlow({ name: 'small', body: {} });
    const { url } = await house.api.createEntry({
      body: { flow: 'small', settings: { kind: 'hook', guard: 'open', methods: ['POST'] } },
    });
    await build.open('small');
    await build.aside.getByRole('tab', { name: 'Try' }).click();
    await build.aside.getByRole('button', { name: 'Wait for the next live run' }).click();
    await build.aside.getByText('Waiting for the next call').waitFor();
    const headers = { 'content-type': 'application/json' };
    await fetch(url!, { method: 'POST', headers, body: JSON.stringify({ party: 11 }) });
    await build.node('b').getByText('done').waitFor();
    await build.aside.getByText('its input is saved above').waitFor();
    await until(async () => (await build.field('Party').inputValue()) === '11', 'the input of the call in the form');
    const { samples } = await house.api.flowTrials({ name: 'small' });
    expect(samples.find(({ name }) => name.startsWith('hook at'))?.input).to.deep.equal({ party: 11 });
  });

  it('edits the document as text: completed, marked, comments kept, the canvas following', async () => {
    await page.goto(`${house.service.url}/flows/small?view=document`);
    const saved = page.getByRole('region', { name: 'The document' }).getByText('Saved');
    await saved.waitFor();
    const text = page.getByLabel('Flow document');
    await text.click();
    await page.keyboard.press('Control+End');
    await page.keyboard.type('  c:\nkind: te');
    await page.getByRole('option', { name: /^text/ }).waitFor();
    // The list takes no key before it could be read.
    await page.waitForTimeout(200);
    await page.keyboard.press('Enter');
    await page.keyboard.type('\nafter: [b]\nwith:\ntex');
    await page.getByRole('option', { name: /^text/ }).waitFor();
    // The list takes no key before it could be read.
    await page.waitForTimeout(200);
    await page.keyboard.press('Enter');
    await page.keyboard.type('third');
    await build.node('c').waitFor();
    // The step may be drawn before its last word is written.
    const kept = await until(async () => {
      const { text: now } = await house.api.getFlow({ name: 'small' });
      return now.includes('text: third') && now;
    }, 'what was typed to be saved');
    expect(kept).to.contain('# kept by the wardens').and.contain('# counted twice');
    await page.keyboard.type('\nnonsense: 1');
    await page.getByText(/1 mark/).waitFor();
    await page.locator('.cm-lint-marker-error').first().hover();
    await page.getByText('"nonsense" is not allowed here').first().waitFor();
    await expectAccessible(page, 'the document');
    // What is drawn is taken into the text, and its comments stay.
    await page.keyboard.press('Control+z');
    await saved.waitFor();
    await build.node('b').locator('h3').click();
    await page.getByRole('button', { name: 'Build', exact: true }).click();
    await build.fill('Text', 'drawn');
    await build.saved();
    await page.getByRole('button', { name: 'Document', exact: true }).click();
    await text.getByText('drawn').waitFor();
    await text.getByText('# kept by the wardens').waitFor();
  });

  it('shows who else has the draft open, and lets who comes second choose with the difference before them', async () => {
    await build.open('small');
    const { url } = await house.api.addPerson({ body: { name: 'tobias', role: 'builder' } });
    const other = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    await other.goto(url);
    const beside = new Builder(other, house.service.url);
    await beside.open('small');
    await other.getByText('owner has this open').waitFor();
    await page.getByText('tobias has this open').waitFor();
    // Ours is typed while theirs is on its way: nothing of ours is saved yet.
    await build.select('b');
    await page.route('**/draft', (route) => route.abort());
    await build.fill('Text', 'ours');
    await page.getByText('Not saved: the service is unavailable').waitFor();
    await beside.select('b');
    await beside.fill('Text', 'theirs');
    await beside.saved();
    await page.unroute('**/draft');
    await build.fill('Text', 'ours!');
    const dialog = page.getByRole('dialog', { name: 'Somebody else saved this draft' });
    await dialog.getByText('Step b: text changed').waitFor();
    await expectAccessible(page, 'a conflict');
    await dialog.getByRole('button', { name: 'Keep mine' }).click();
    await build.saved();
    expect((await stepsOf('small')).b!.with).to.deep.equal({ text: 'ours!' });
    await until(async () => (await beside.field('Text').inputValue()) === 'ours!', 'the other page to follow');
    await other.context().close();
    await house.api.removePerson({ name: 'tobias' });
  });

  it('loses nothing when the session ends or the page is closed under it', async () => {
    await build.open('small');
    await build.select('b');
    const cookies = await page.context().cookies();
    await page.context().clearCookies();
    await build.fill('Text', 'typed when signed out');
    await page.getByText('Not saved: the service is unavailable').waitFor();
    await page.context().addCookies(cookies);
    // Closed before it could be saved: the next page has it still.
    page.once('dialog', (dialog) => void dialog.accept());
    await page.route('**/draft', (route) => route.abort());
    await build.fill('Text', 'typed at last');
    await page.waitForTimeout(400);
    await page.goto(`${house.service.url}/flows`);
    await page.unroute('**/draft');
    await build.open('small');
    await page.getByText('They are still in this browser.').waitFor();
    await page.getByRole('button', { name: 'Restore' }).click();
    await build.saved();
    expect((await stepsOf('small')).b!.with).to.deep.equal({ text: 'typed at last' });
  });

  it('opens a flow of two thousand steps and still answers', async () => {
    const steps = Object.fromEntries(
      Array.from({ length: 2000 }, (_, i) => [
        `s${i}`,
        { kind: 'text', ...(i > 2 && { after: [`s${i - 3}`] }), with: { text: `${i}` } },
      ]),
    );
    await house.api.importFlow({ body: { document: { format: 'pindro/flow@1', name: 'huge', steps } } });
    // All of its cards are drawn once, which takes as long as the machine has time for it.
    page.setDefaultTimeout(patience(60_000));
    await build.open('huge');
    await page.locator('.svelte-flow__node').first().waitFor();
    page.setDefaultTimeout(15_000);
    await page.getByPlaceholder('Find a step').fill('s1234');
    await page.keyboard.press('Enter');
    await until(async () => (await build.aside.getByLabel('Name of the step').inputValue()) === 's1234', 'the step');
    await house.api.removeFlow({ name: 'huge' });
  });
});

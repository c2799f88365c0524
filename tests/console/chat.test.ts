import type { ServerResponse } from 'node:http';
import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { expectAccessible, openBrowser } from '../support/browser.js';
import { type Reply, type ScriptedModel, scriptedModel } from '../support/scripted-model.js';
import { furnish, until, type Workspace, workspace } from '../support/workspace.js';

const CONSOLE = new URL('../../../packages/console/dist', import.meta.url).pathname;
const DESK = `format: pindro/flow@1
name: desk
title: The desk
input: { type: object, required: [message], properties: { message: { type: string } } }
steps:
  agent:
    kind: agent
    with: { model: house, message: "\${ input.message }", memory: { key: ["\${ session.id }"] }, toolbox: [{ endpoint: huts }] }
result: "\${ steps.agent.answer }"
`;
const RICH = [
  '**Larch** has room:',
  '',
  '| hut | free |',
  '| --- | --- |',
  '| larch | 16 |',
  '',
  '<img src="https://elsewhere.example/pixel"> <script>window.broken = true</script>',
  '[the huts](https://alder-ridge.example/huts) [bad](javascript:alert(1))',
].join('\n');
const BOOK = { name: 'reserve_bunks', arguments: { hut: 'larch', night: '2027-02-14', party: 2 } };

/** Stays open until a test lets it go on. */
const held: ServerResponse[] = [];
const hold: Reply = (response) => {
  response.writeHead(200, { 'content-type': 'text/event-stream' });
  response.write('data: {"choices":[{"index":0,"delta":{"content":"One moment"}}]}\n\n');
  held.push(response);
};
const REPLIES: Reply[] = [
  // The connection is tried when it is added.
  { text: 'ready' },
  { text: RICH },
  { calls: [BOOK] },
  { text: 'Booked.' },
  { text: 'Booked again.' },
  hold,
  hold,
  (response) => response.writeHead(503, { 'content-type': 'text/plain' }).end('the model house is closed'),
];

describe('talking to an agent in the console', function () {
  this.timeout(120_000);
  let house: Workspace;
  let model: ScriptedModel;
  let browser: Browser;
  let page: Page;
  const faults: string[] = [];
  const message = () => page.getByLabel('Message');
  const say = async (words: string) => {
    await message().fill(words);
    await page.keyboard.press('Enter');
  };
  const said = () => page.getByRole('log', { name: 'Conversation' });
  const runs = async () => (await house.api.listRuns({ query: { flow: 'desk', roots: 'true' } })).items;

  before(async () => {
    model = await scriptedModel(REPLIES);
    house = await workspace({ console: CONSOLE });
    furnish(house.service);
    await house.api.addModel({
      body: { name: 'house', base: model.url, model: 'house-1', settings: { patience: '4s' } },
    });
    house.service.flows.drafts.save(DESK);
    browser = await openBrowser();
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
    await context.grantPermissions(['clipboard-read', 'clipboard-write'], { origin: house.service.url });
    page = await context.newPage();
    page.setDefaultTimeout(15_000);
    page.on('pageerror', (error) => faults.push(error.message));
    await page.goto(house.service.createSignInLink());
    await page.goto(`${house.service.url}/flows/desk/chat`);
  });
  after(async () => {
    for (const response of held) response.end();
    await browser.close();
    await Promise.all([house.close(), model.close()]);
  });
  afterEach(async function () {
    if (this.currentTest?.state === 'failed' && process.env.SHOT) await page.screenshot({ path: process.env.SHOT });
    expect(faults.splice(0), 'errors in the browser').to.deep.equal([]);
  });

  it('the field grows with what is written, and Enter sends', async () => {
    await message().waitFor();
    const height = async () => (await message().boundingBox())!.height;
    const before = await height();
    await message().fill('Is there');
    await page.keyboard.press('Shift+Enter');
    await page.keyboard.type('room in larch?');
    await page.keyboard.press('Shift+Enter');
    expect(await height()).to.be.above(before + 15);
    await page.keyboard.press('Enter');
    await said().getByText('has room').waitFor();
    expect(await message().inputValue()).to.equal('');
    expect(await height()).to.equal(before);
    expect(model.requests.at(-1)!.body.messages.at(-1)!.content).to.equal('Is there\nroom in larch?');
  });

  it('an answer is shown with its structure, and nothing in it runs or reaches out', async () => {
    await said().getByRole('cell', { name: 'larch' }).waitFor();
    expect(await said().locator('strong').textContent()).to.equal('Larch');
    expect(await said().locator('img, script, iframe').count()).to.equal(0);
    expect(await page.evaluate('typeof window.broken')).to.equal('undefined');
    const link = said().getByRole('link', { name: 'the huts' });
    expect(await link.getAttribute('target')).to.equal('_blank');
    expect(await link.getAttribute('rel')).to.contain('noreferrer');
    expect(await said().locator('a[href^="javascript"]').count()).to.equal(0);
    await expectAccessible(page, 'an answer with a table');
    await said().getByRole('button', { name: 'Copy answer' }).click();
    expect(await page.evaluate(() => navigator.clipboard.readText())).to.equal(RICH);
  });

  it('a tool call is a line that says on what, how it went and what it made', async () => {
    await say('Book two bunks');
    await said().getByText('Booked.', { exact: true }).waitFor();
    await said().getByRole('link', { name: 'row 1 in bookings' }).waitFor();
    await said()
      .getByRole('button', { name: /reserve bunks/ })
      .click();
    await said()
      .getByText('Called with, endpoint huts')
      .or(said().getByText(/^Called with/))
      .waitFor();
    await said().getByRole('link', { name: 'Details' }).waitFor();
    await expectAccessible(page, 'an open call');
  });

  it('the last message can be sent once more', async () => {
    expect(await said().getByRole('button', { name: 'Retry' }).count()).to.equal(1);
    await said().getByRole('button', { name: 'Retry' }).click();
    await said().getByText('Booked again.').waitFor();
    expect(await said().getByText('Book two bunks').count()).to.equal(2);
    expect((await runs()).length).to.equal(3);
  });

  it('what is under way is stopped, and the run with it', async () => {
    await say('Think long');
    await said().getByText('One moment').waitFor();
    await page.getByRole('button', { name: 'Stop' }).click();
    await said().getByRole('alert').waitFor();
    await page.getByRole('button', { name: 'Send' }).waitFor();
    const [last] = await until(async () => {
      const all = await runs();
      return all[0]!.state === 'cancelled' ? all : null;
    }, 'the run to be cancelled');
    expect(last!.state).to.equal('cancelled');
  });

  it('another conversation is read meanwhile; stopping means what is under way, and nothing is lost', async () => {
    await say('Think longer');
    await said().getByText('One moment').last().waitFor();
    await page.getByRole('button', { name: 'New conversation' }).click();
    await page.getByText('Say something').waitFor();
    const list = page.getByRole('navigation', { name: 'Conversations' });
    await list.getByRole('button', { name: /Is there/ }).click();
    // What was under way is there again, with what was said before.
    await said().getByText('Think longer').waitFor();
    expect(await said().getByText('Think longer').count()).to.equal(1);
    await said().getByText('has room').waitFor();
    await page.getByRole('button', { name: 'New conversation' }).click();
    await page.getByRole('button', { name: 'Stop' }).click();
    await until(async () => (await runs())[0]!.state === 'cancelled', 'the run to be cancelled');
    await page.getByText('Say something').waitFor();
    await page.getByRole('button', { name: 'Send' }).waitFor();
  });

  it('a model that fails is told with its own words and what to do, and the page of conversations leads on', async () => {
    await say('Hello?');
    // It is asked again for as long as its connection has patience, and that is said.
    await page
      .getByText(/retrying/)
      .first()
      .waitFor();
    await said().getByRole('alert').getByText(/house/).first().waitFor();
    await said().getByRole('link', { name: 'View run' }).waitFor();
    await page.goto(`${house.service.url}/chat`);
    await page.getByRole('heading', { level: 1 }).waitFor();
    await page.getByText('The desk').first().waitFor();
    await page.goto(`${house.service.url}/flows/desk/chat`);
    const list = page.getByRole('navigation', { name: 'Conversations' });
    await list.getByRole('button', { name: /Is there/ }).click();
    await said().getByText('Booked again.').waitFor();
    expect(await list.getByRole('button').count()).to.equal(2);
    await list
      .getByRole('button', { name: /Is there.*/, exact: false })
      .and(page.locator('[aria-current]'))
      .waitFor();
    await page.reload();
    await said().getByText('Booked again.').waitFor();
  });
});

import { type Lift, type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { expectAccessible } from '../support/browser.js';
import { type ConsolePage, consolePage } from '../support/console-page.js';
import { deskFlow } from '../support/desk.js';
import { furnish, LIFT_KEY, startTestLift, until, type Workspace } from '../support/workspace.js';

const DESK = deskFlow(`instructions: Keep the desk.
toolbox: [{ server: lift, use: [schedule_load], tools: { schedule_load: { approval: every } } }]`);

describe('what somebody is asked, in the console', function () {
  this.timeout(120_000);
  let house: Workspace;
  let model: Model;
  let lift: Lift;
  let there: ConsolePage;
  let page: Page;
  before(async () => {
    [there, model, lift] = await Promise.all([consolePage(), startModel(), startTestLift()]);
    ({ house, page } = there);
    furnish(house.service);
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'house' } });
    await house.api.addModel({ body: { name: 'boasts', base: model.url, model: 'house-boasts' } });
    await house.service.servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
    house.service.flows.drafts.save(DESK);
  });
  after(async () => {
    await there.close();
    await Promise.all([model.close(), lift.close()]);
  });
  afterEach(function () {
    return there.calm(this.currentTest?.state === 'failed');
  });
  const log = () => page.getByRole('log', { name: 'Conversation' });
  const say = async (words: string) => {
    await page.getByLabel('Message').fill(words);
    await page.keyboard.press('Enter');
  };

  it('is asked in the chat, changed before it is sent, and the conversation goes on in its place', async () => {
    await page.goto(`${house.service.url}/flows/desk/chat`);
    await say('Send 80 kg of flour up to larch on 2027-02-13.');
    const question = log().getByRole('group', { name: 'Allow desk to call schedule load?' });
    await question.getByText('Arguments', { exact: true }).waitFor();
    await expectAccessible(page, 'a chat that asks');
    await question.getByRole('button', { name: 'Edit arguments' }).click();
    await question.getByLabel('Weight kg').fill('70');
    await question.getByRole('button', { name: 'Approve with changes' }).click();
    await log()
      .getByText(/weight kg 70/)
      .waitFor();
    await log().getByRole('link', { name: 'View run' }).waitFor();
    expect(lift.loads()).to.have.length(1);
    expect(
      await log()
        .getByRole('group', { name: /Allow desk to call/ })
        .count(),
    ).to.equal(0);
  });

  it('is answered in the list too, also when the chat was closed meanwhile', async () => {
    await say('Send 60 kg of flour up to larch on 2027-02-14.');
    await log()
      .getByRole('group', { name: /Allow desk to call/ })
      .waitFor();
    await page.goto(`${house.service.url}/approvals`);
    const question = page.getByRole('group', { name: 'Allow desk to call schedule load?' });
    await question.getByLabel('Note').fill('The lift is closed.');
    await expectAccessible(page, 'the list of what is asked');
    await question.getByRole('button', { name: 'Reject' }).click();
    await page.getByText('No pending approvals').waitFor();
    await page.goto(`${house.service.url}/flows/desk/chat`);
    await log()
      .getByText(/The lift is closed/)
      .first()
      .waitFor();
    const receipt = log().getByRole('group', { name: 'Receipt' });
    await receipt.getByText(/rejected|refused/).waitFor();
    expect(lift.loads()).to.have.length(1);
  });

  it('a claim that is none stands first, in the chat, the list of runs and the run', async () => {
    house.service.flows.drafts.save(
      DESK.replace('model: house', 'model: boasts').replace('approval: every', 'line: lifting'),
    );
    await say('Send 400 kg of gas up to larch on 2027-02-15.');
    const words = 'The answer says that the work is done, but schedule load failed.';
    await log().getByText(words).waitFor();
    const [said, answer] = await Promise.all([
      log().getByText(words).boundingBox(),
      log()
        .getByText(/^Done: I have/)
        .boundingBox(),
    ]);
    expect(said!.y).to.be.below(answer!.y);
    await expectAccessible(page, 'a claim that is none');
    await page.goto(`${house.service.url}/runs`);
    await page.getByRole('row').filter({ hasText: words }).getByRole('link').first().click();
    await page.getByRole('group', { name: 'Receipt' }).getByText(words).waitFor();
    await expectAccessible(page, 'a run with its receipt');
  });

  it('and what the model will be sent is read before anything runs', async () => {
    const asked = model.asked.length;
    await page.goto(`${house.service.url}/flows/desk`);
    await page.locator('.svelte-flow__node').filter({ hasText: 'desk' }).locator('h3').first().click();
    await page.getByRole('button', { name: 'Model request preview' }).click();
    const window = page.getByRole('dialog', { name: 'Model request preview' });
    await window.getByText('Keep the desk.').first().waitFor();
    await window.getByText('takes hut, day, weight_kg').waitFor();
    await window.getByText('Send 400 kg of gas up').first().waitFor();
    await expectAccessible(page, 'what the model will be sent');
    await window.getByText('Request body').click();
    await window.getByText('"messages"').first().waitFor();
    expect(model.asked.length).to.equal(asked);
  });

  it('asks for what is missing by a form in the chat', async () => {
    house.service.flows.drafts.save(
      deskFlow(`built_in: { ask_user: true }\ntoolbox: [{ endpoint: huts }]`, { memory: ', notes: true' }),
    );
    await page.goto(`${house.service.url}/flows/desk/chat`);
    await page.getByRole('button', { name: 'New conversation' }).click();
    await say('Reserve bunks for 2 people.');
    const form = log().getByRole('group', { name: 'What is missing to reserve bunks' });
    await form
      .getByLabel(/Hut|hut/)
      .first()
      .selectOption('larch');
    await form
      .getByLabel(/Night|night/)
      .first()
      .fill('2027-05-05');
    await expectAccessible(page, 'a form in the chat');
    await form.getByRole('button', { name: 'Answer', exact: true }).click();
    await log()
      .getByText(/hut larch/)
      .first()
      .waitFor();
    expect(await form.count()).to.equal(0);
  });

  it('answers what waits together at once', async () => {
    house.service.flows.drafts.save(DESK);
    await page.getByRole('button', { name: 'New conversation' }).click();
    const before = lift.loads().length;
    await say('Send 60 kg of flour up to larch on 2027-02-14. Send 61 kg of gas up to larch on 2027-02-15.');
    await log().getByText('2 questions pending together.').waitFor();
    await log().getByRole('button', { name: 'Approve all' }).click();
    // What is asked names the weight, too: only the lift knows when both were sent.
    await until(() => lift.loads().length === before + 2, 'both loads');
    await log().getByText('2 questions pending together.').waitFor({ state: 'detached' });
  });

  it('makes a flow of what was done, from the run', async () => {
    await log().getByRole('link', { name: 'View run' }).last().click();
    await page.getByRole('button', { name: 'Create flow' }).click();
    const window = page.getByRole('dialog', { name: 'Create a flow from these calls' });
    await window.getByLabel('Name of the flow').fill('desk');
    await window.getByRole('button', { name: 'Create' }).click();
    await window.getByText(/flow named "desk" already exists/).waitFor();
    await window.getByLabel('Name of the flow').fill('two-loads');
    await expectAccessible(page, 'making a flow of a run');
    await window.getByRole('button', { name: 'Create' }).click();
    await page.waitForURL(/\/flows\/two-loads$/);
    await page.locator('.svelte-flow__node').nth(1).waitFor();
    const { document } = house.service.flows.drafts.get('two-loads');
    expect(Object.values(document.steps).map(({ kind }) => kind)).to.deep.equal(['tool', 'tool']);
  });

  it('is set for a tool where one tames it, with its condition held against what the tool takes', async () => {
    house.service.flows.drafts.save(DESK.replace('approval: every', 'line: lifting'));
    await page.goto(`${house.service.url}/flows/desk`);
    await page.locator('.svelte-flow__node').filter({ hasText: 'desk' }).locator('h3').first().click();
    await page.getByRole('button', { name: 'Choose and configure tools' }).click();
    const box = page.getByRole('dialog', { name: 'Toolbox' });
    await box.getByRole('button', { name: 'Configure schedule_load' }).click();
    await box
      .getByText(/^More: /)
      .first()
      .click();
    await box.getByRole('button', { name: /^Requires approval/ }).click();
    await box
      .getByText(/^Requires approval/)
      .last()
      .waitFor();
    await expectAccessible(page, 'asking first in the toolbox');
  });
});

describe('model connections in the console', function () {
  this.timeout(120_000);
  let there: ConsolePage;
  let model: Model;
  before(async () => {
    [there, model] = await Promise.all([consolePage(), startModel({ wants: 'x-format-version' })]);
  });
  after(async () => {
    await there.close();
    await model.close();
  });
  afterEach(function () {
    return there.calm(this.currentTest?.state === 'failed');
  });

  it('are added with the header that the server says it wants', async () => {
    const { page, house } = there;
    await there.open('/models');
    await page.getByRole('button', { name: 'Add connection' }).click();
    const window = page.getByRole('dialog', { name: 'Add connection' });
    await window.getByLabel('Name', { exact: true }).fill('house');
    await window.getByLabel('Base address').fill(model.url);
    await window.getByLabel('Wire format').selectOption('messages');
    await window.getByText('in the header x-api-key').waitFor();
    await window.getByLabel('Model name').fill('house');
    await expectAccessible(page, 'adding a model');
    await window.getByRole('button', { name: 'Test and add' }).click();
    await window.getByText(/x-format-version: header is required/).waitFor();
    await window.getByText('Additional header').click();
    await window.getByLabel('Name of the header').fill('x-format-version');
    await window.getByLabel('Its value').fill('1');
    await window.getByRole('button', { name: 'Test and add' }).click();
    await page.getByRole('button', { name: 'Test house' }).waitFor();
    expect((await house.api.getModel({ name: 'house' })).settings).to.deep.equal({
      headers: { 'x-format-version': '1' },
    });
  });

  it('are tested, and say whether they call tools', async () => {
    const { page } = there;
    await page.getByRole('button', { name: 'Test house' }).click();
    await page.getByText(/house responded in \d+ ms/).waitFor();
    await page.getByText(/The model called a tool with/).waitFor();
  });

  it('are changed by a form of their settings, and keep what is not touched', async () => {
    const { page, house } = there;
    await there.open('/models?open=house');
    const window = page.getByRole('dialog', { name: 'Model connection house' });
    await window
      .getByText(/^More: /)
      .first()
      .click();
    const settings = window.getByRole('group', { name: /^Settings/ });
    await settings.getByRole('button', { name: /^Temperature/ }).click();
    await settings.getByLabel(/^Temperature/).fill('0.3');
    await expectAccessible(page, 'the settings of a model');
    await window.getByRole('button', { name: 'Save', exact: true }).click();
    await window.waitFor({ state: 'detached' });
    expect((await house.api.getModel({ name: 'house' })).settings).to.deep.equal({
      ...{ temperature: 0.3, headers: { 'x-format-version': '1' } },
    });
  });
});

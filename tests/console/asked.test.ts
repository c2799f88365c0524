import { type Lift, type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { expectAccessible } from '../support/browser.js';
import { type ConsolePage, consolePage } from '../support/console-page.js';
import { deskFlow } from '../support/desk.js';
import { furnish, LIFT_KEY, startTestLift, type Workspace } from '../support/workspace.js';

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
    house.service.flows.save(DESK);
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
    const question = log().getByRole('group', { name: 'Let desk call schedule load?' });
    await question.getByText('This will be sent').waitFor();
    await expectAccessible(page, 'a chat that asks');
    await question.getByRole('button', { name: 'Change it first' }).click();
    await question.getByLabel('Weight kg').fill('70');
    await question.getByRole('button', { name: 'Approve as changed' }).click();
    await log()
      .getByText(/weight kg 70/)
      .waitFor();
    await log().getByRole('link', { name: 'See the whole run' }).waitFor();
    expect(lift.loads()).to.have.length(1);
    expect(
      await log()
        .getByRole('group', { name: /Let desk call/ })
        .count(),
    ).to.equal(0);
  });

  it('is answered in the list too, also when the chat was closed meanwhile', async () => {
    await say('Send 60 kg of flour up to larch on 2027-02-14.');
    await log()
      .getByRole('group', { name: /Let desk call/ })
      .waitFor();
    await page.goto(`${house.service.url}/approvals`);
    const question = page.getByRole('group', { name: 'Let desk call schedule load?' });
    await question.getByLabel('A word with it').fill('The lift is closed.');
    await expectAccessible(page, 'the list of what is asked');
    await question.getByRole('button', { name: 'Refuse' }).click();
    await page.getByText('Nothing waits for you').waitFor();
    await page.goto(`${house.service.url}/flows/desk/chat`);
    await log()
      .getByText(/The lift is closed/)
      .first()
      .waitFor();
    const receipt = log().getByRole('group', { name: 'What was done' });
    await receipt.getByText(/refused/).waitFor();
    expect(lift.loads()).to.have.length(1);
  });

  it('a claim that is none stands first, in the chat, the list of runs and the run', async () => {
    house.service.flows.save(DESK.replace('model: house', 'model: boasts').replace('approval: every', 'line: lifting'));
    await say('Send 400 kg of gas up to larch on 2027-02-15.');
    const words = 'It says that it is done, but schedule load failed.';
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
    await page.getByRole('group', { name: 'What was done' }).getByText(words).waitFor();
    await expectAccessible(page, 'a run with its receipt');
  });

  it('and what the model will be sent is read before anything runs', async () => {
    const asked = model.asked.length;
    await page.goto(`${house.service.url}/flows/desk`);
    await page.locator('.svelte-flow__node').filter({ hasText: 'desk' }).locator('h3').first().click();
    await page.getByRole('button', { name: 'What the model will be sent' }).click();
    const window = page.getByRole('dialog', { name: 'What the model will be sent' });
    await window.getByText('Keep the desk.').first().waitFor();
    await window.getByText('takes hut, day, weight_kg').waitFor();
    await window.getByText('Send 400 kg of gas up').first().waitFor();
    await expectAccessible(page, 'what the model will be sent');
    await window.getByText('As it goes over the wire').click();
    await window.getByText('"messages"').first().waitFor();
    expect(model.asked.length).to.equal(asked);
  });
});

import { type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { expectAccessible } from '../support/browser.js';
import { type ConsolePage, consolePage } from '../support/console-page.js';
import { deskFlow } from '../support/desk.js';
import { retryOptions } from '../support/retry.js';
import { furnish, until, type Workspace } from '../support/workspace.js';

const LOOP = `format: pindro/flow@1
name: count-beds
input: { type: object, properties: { huts: { type: array } } }
steps:
  way: { kind: choose, with: { when: { few: "\${ size(input.huts) < 2 }" } } }
  alone: { kind: text, after: [way.few], with: { text: one } }
  all:
    kind: each
    after: [way.otherwise]
    with:
      list: "\${ input.huts }"
      steps: { say: { kind: text, with: { text: "beds of \${ item }" } } }
result: "\${ steps.all.count }"
`;
const AGAIN = `format: pindro/flow@1
name: ask-again
steps:
  ask: { kind: http, retry: { times: 2, pause: 100ms }, with: { url: "http://127.0.0.1:9/", method: GET } }
`;

describe('a run that is read', function () {
  this.timeout(60_000);
  let there: ConsolePage;
  let house: Workspace;
  let page: Page;
  let model: Model;
  before(async () => {
    [there, model] = await Promise.all([consolePage(), startModel()]);
    ({ house, page } = there);
    furnish(house.service);
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'house' } });
    for (const document of [LOOP, AGAIN, deskFlow('toolbox: [{ endpoint: huts }]')])
      house.service.flows.drafts.save(document);
  });
  after(async () => {
    await there.close();
    await model.close();
  });
  afterEach(function () {
    return there.calm(this.currentTest?.state === 'failed');
  });
  const open = async (flow: string, input: object) => {
    const { run } = await house.api.runFlow({ name: flow, body: { input: input } });
    await there.open(`/runs/${run}`);
    return run;
  };
  const rows = (on: Page) => on.getByRole('list', { name: 'Spans of the run' }).getByRole('listitem');

  it('is searched, gone through moment by moment, and walked with the keyboard', async () => {
    await open('count-beds', { huts: ['kestrel', 'larch', 'stonewater'] });
    expect(await rows(page).count()).to.equal(9);
    await page.getByLabel('Search spans').fill('of larch');
    await page.getByText('1 span of 9 matching').waitFor();
    // What stands above what was found stays, so that one sees where it is.
    expect(await rows(page).count()).to.equal(4);
    await page.getByLabel('Search spans').fill('');
    await page.getByRole('button', { name: 'Event log' }).click();
    await page.getByRole('button', { name: 'Flow', exact: true }).click();
    const steps = page.getByRole('region', { name: 'Steps' });
    await page.getByLabel('Event').fill('1');
    await page.getByText(/^2 of 18, after/).waitFor();
    await page.getByText('step way begins').waitFor();
    expect(await steps.getByText('done').count()).to.equal(0);
    await expectAccessible(page, 'a moment of a run');
    await page.getByLabel('Event').fill('17');
    await page.getByText('run count-beds ends').waitFor();
    await steps.getByText('done').first().waitFor();
    await page.getByRole('button', { name: 'Event log' }).click();
    await page.getByText('Skipped: way took the branch otherwise, not few.').waitFor();
    await steps.getByText('way', { exact: true }).click();
    await page.getByRole('region', { name: 'step way' }).waitFor();
    await page.getByRole('button', { name: 'Trace', exact: true }).click();
    await page.getByRole('button', { name: /^run count-beds/ }).click();
    await page.keyboard.press('ArrowDown');
    await page.getByRole('region', { name: 'step way' }).waitFor();
    await page.keyboard.press('End');
    await page.getByRole('region', { name: 'step say' }).getByText('beds of stonewater').first().waitFor();
    await page.keyboard.press('Home');
    await page.keyboard.press('ArrowLeft');
    await page.getByText(/, 8 /).waitFor();
    expect(await rows(page).count()).to.equal(1);
  });

  it('tells in what attempts differ', async () => {
    await open('ask-again', {});
    await page
      .getByRole('button', { name: /^step ask/ })
      .last()
      .click();
    const attempts = page.getByRole('list', { name: 'Attempts' });
    await attempts.getByText(/attempt 3 of 3: .* the same error, .* later/).waitFor();
  });

  it('is done again with another model, and from a later round on', async () => {
    await house.api.addModel({ body: { name: 'boaster', base: model.url, model: 'house-claims' } });
    const run = await open('desk', { message: 'Reserve 2 bunks in kestrel for 2027-03-02.' });
    const away = () => page.waitForURL((url) => url.pathname.startsWith('/runs/') && !url.pathname.endsWith(run));
    await retryOptions(page, async () => {
      await page.getByLabel('Start from').selectOption('desk');
      await page.getByLabel('Model', { exact: true }).selectOption('boaster');
    });
    await page.getByRole('button', { name: 'Retry', exact: true }).click();
    await away();
    await page.getByRole('heading', { name: /no tool that changes anything/ }).waitFor();
    await there.open(`/runs/${run}`);
    await retryOptions(page, async () => {
      await page.getByLabel('Start from').selectOption('desk');
      await page.getByLabel('Round').selectOption('2');
    });
    await page.getByRole('button', { name: 'Retry', exact: true }).click();
    await away();
    await page.getByRole('button', { name: 'Trace', exact: true }).click();
    const models = rows(page).getByRole('button', { name: /^model/ });
    await until(async () => (await models.count()) === 1, 'the one round');
  });

  it('lies beside one that went well, whose results can be held', async () => {
    const input = { huts: ['kestrel', 'larch'] };
    const { run: well } = await house.api.runFlow({ name: 'count-beds', body: { input } });
    await open('count-beds', { huts: ['stonewater', 'larch', 'kestrel'] });
    await page.getByRole('link', { name: 'Compare with the last success' }).click();
    await page.getByRole('heading', { name: 'Compare runs of count-beds' }).waitFor();
    await page
      .getByRole('region', { name: 'all', exact: true })
      .getByRole('button', { name: 'Stub this result' })
      .last()
      .click();
    await page.getByRole('status').getByText('Stubbed: trials of the').waitFor();
    const { held } = await house.api.flowTrials({ name: 'count-beds' });
    expect(held).to.have.length(1);
    expect(held[0]).to.include({ step: 'all', run: well });
  });

  it('shows the conversation as the model saw it', async () => {
    await open('desk', { message: 'How many bunks are free in larch on 2027-03-01?' });
    const talk = page.getByRole('region', { name: 'Conversation' });
    await talk
      .getByText('calls reserve_bunks')
      .or(talk.getByText(/The model/))
      .first()
      .waitFor();
    await talk.getByText('How many bunks are free in larch on 2027-03-01?').waitFor();
    await talk.locator('summary').getByText('Instructions').click();
    await talk.getByText('Instructions in it are not from the user').waitFor();
    await expectAccessible(page, 'a conversation');
  });
});

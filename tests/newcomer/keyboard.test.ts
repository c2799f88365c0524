import { type Lift, type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { type ConsolePage, consolePage } from '../support/console-page.js';
import { deskFlow } from '../support/desk.js';
import { LIFT_KEY, startTestLift, until } from '../support/workspace.js';

describe('the newcomer script in the console, with the keyboard alone', function () {
  this.timeout(120_000);
  let console: ConsolePage;
  let lift: Lift;
  let model: Model;
  before(async () => {
    console = await consolePage();
    [model, lift] = await Promise.all([startModel(), startTestLift()]);
  });
  after(async () => {
    await console.close();
    await lift.close();
    await model.close();
  });
  afterEach(function () {
    return console.calm(this.currentTest?.state === 'failed');
  });

  /** Moves with Tab until what is focused has a name; the mouse is never used. */
  async function tabTo(page: Page, name: RegExp): Promise<void> {
    for (let count = 0; count < 120; count++) {
      const now = await page.evaluate(() => {
        const one = document.activeElement as HTMLElement | null;
        if (!one || !/^(?:A|BUTTON|INPUT|SELECT|TEXTAREA|SUMMARY)$/.test(one.tagName)) return '';
        const label = one && 'labels' in one ? (one as HTMLInputElement).labels?.[0]?.textContent : '';
        return `${one?.getAttribute('aria-label') ?? ''} ${label ?? ''} ${one?.textContent ?? ''}`.trim();
      });
      if (name.test(now)) return;
      await page.keyboard.press('Tab');
    }
    throw new Error(`Tab never led to ${name}`);
  }
  const press = async (page: Page, name: RegExp) => {
    await tabTo(page, name);
    await page.keyboard.press('Enter');
  };

  it('an empty overview leads to a flow and to an agent', async () => {
    const { page, open } = console;
    await open('/');
    await page.getByRole('heading', { name: 'Serve a flow to a client' }).waitFor();
    await page.getByRole('heading', { name: 'Use a tool server in an agent' }).waitFor();
    await press(page, /^Attach a tool server$/);
    await page.getByRole('dialog').waitFor();
  });

  it('a tool server is attached, and a value is selected from its listing tool', async () => {
    const { page, house, open } = console;
    await house.api.attachServer({ body: { name: 'lift', url: lift.url, secret: LIFT_KEY } });
    await house.api.callServerTool({
      ...{ name: 'lift', tool: 'schedule_load' },
      body: { arguments: { hut: 'larch', day: '2027-02-14', weight_kg: 20 } },
    });
    await open('/servers/lift');
    await page.getByRole('button', { name: 'Try cancel_load' }).waitFor();
    await press(page, /Try\s*cancel_load/);
    await press(page, /Select a value for Load/);
    await page.getByRole('button', { name: /L-0001/ }).waitFor();
    await page.keyboard.type('L-00');
    await press(page, /L-0001/);
    await page.getByLabel('Load', { exact: true }).waitFor();
    expect(await page.getByLabel('Load', { exact: true }).inputValue()).to.equal('L-0001');
  });

  it('a row of a toolbox is switched off and on, and keeps its settings', async () => {
    const { page, house, open } = console;
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'house' } });
    const tools = '{ server: lift, use: [schedule_load], tools: { schedule_load: { calls: 2 } } }';
    await house.api.importFlow({ body: { document: deskFlow(`toolbox: [${tools}]`) } });
    const row = async () => {
      const { document: now } = await house.api.getFlow({ name: 'desk' });
      return (now as { steps: { desk: { with: { toolbox: { off?: boolean; tools: object }[] } } } }).steps.desk.with
        .toolbox[0]!;
    };
    await open('/flows/desk?step=desk');
    await page.getByRole('button', { name: 'Choose and configure tools' }).waitFor();
    await press(page, /Choose and configure tools/);
    await page.getByLabel('Offer lift').waitFor();
    await tabTo(page, /Offer lift/);
    await page.keyboard.press('Space');
    await page.getByText('Disabled: the agent is offered none of these tools').waitFor();
    await until(async () => (await row()).off === true, 'the row to be off');
    expect((await row()).tools).to.deep.equal({ schedule_load: { calls: 2 } });
    await page.keyboard.press('Space');
    await until(async () => (await row()).off === undefined, 'the row to be on');
    expect((await row()).tools).to.deep.equal({ schedule_load: { calls: 2 } });
  });
});

import { type Lift, type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { expectAccessible } from '../support/browser.js';
import { type ConsolePage, consolePage } from '../support/console-page.js';
import { deskFlow } from '../support/desk.js';
import { retryOptions } from '../support/retry.js';
import { furnish, LIFT_KEY, startTestLift, until, type Workspace } from '../support/workspace.js';

const WELCOME = `format: pindro/flow@1
name: welcome
input: { type: object, properties: { who: { type: object } } }
steps:
  say: { kind: text, with: { text: "Welcome, \${ input.who.nmae }!" } }
result: "\${ steps.say.text }"
`;
const LOAD = `format: pindro/flow@1
name: load
input: { type: object, properties: {} }
steps:
  lift: { kind: tool, with: { server: later, tool: shedule_load, arguments: { hut: larch, day: "2027-02-13", weight_kg: 40 } } }
result: "\${ steps.lift.data.load }"
`;
const OUTER = `format: pindro/flow@1
name: outer
steps:
  call: { kind: flow, with: { flow: inner, input: {} } }
result: "\${ steps.call.result }"
`;
const INNER = `format: pindro/flow@1
name: inner
steps:
  say: { kind: text, with: { text: "Well." } }
result: "\${ steps.say.text }"
`;
const COUNT = `format: pindro/flow@1
name: desk-in-a-hurry
input: { type: object, required: [message], properties: { message: { type: string } } }
steps:
  desk: { kind: agent, with: { model: house, message: "\${ input.message }", toolbox: [{ server: lift }], limits: { rounds: 1 } } }
result: "\${ steps.desk.answer }"
`;

describe('what went wrong, in the console', function () {
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
    const { servers, flows } = house.service;
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'house' } });
    await house.api.addModel({ body: { name: 'lost', base: model.url, model: 'house-unknown', skipTest: true } });
    await servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
    await servers.attach({
      ...{
        name: 'later',
        url: 'http://127.0.0.1:9/mcp',
        credential: null,
        secret: LIFT_KEY,
        rules: {},
        skipTest: true,
      },
    });
    for (const document of [WELCOME, LOAD, INNER, OUTER, COUNT]) flows.drafts.save(document);
    flows.drafts.save(deskFlow('', { name: 'lost-desk', model: 'lost' }));
    flows.revisions.publish('load');
    flows.revisions.publish('outer');
    await servers.change('later', { url: lift.url });
  });
  after(async () => {
    await there.close();
    await Promise.all([model.close(), lift.close()]);
  });
  afterEach(function () {
    return there.calm(this.currentTest?.state === 'failed');
  });

  /** Runs a flow, opens the run, makes the change that stands there, and runs it again. @returns what the run came to */
  const cured = async (flow: string, input: object, line: RegExp, stage: 'draft' | 'live' = 'draft') => {
    const { run } = await house.api.runFlow({ name: flow, body: { input: input, stage } });
    await page.goto(`${house.service.url}/runs/${run}`);
    const finding = page.getByRole('region', { name: line });
    await finding.getByRole('button', { name: 'Apply fix' }).click();
    await finding.getByText('Applied.', { exact: true }).waitFor();
    await retryOptions(page, () => page.getByLabel('Version to run').selectOption(stage));
    await page.getByRole('button', { name: 'Retry', exact: true }).click();
    await page.waitForURL((url) => url.pathname.startsWith('/runs/') && !url.pathname.endsWith(run));
    const again = page.url().split('/').at(-1)!;
    await until(async () => (await house.api.getRun({ id: again })).endedAt !== null, 'the end of the run');
    return { run, again: await house.api.getRun({ id: again }) };
  };

  it('an expression that names a field wrongly: looked at, changed, well, and back when it is broken again', async () => {
    const { run, again } = await cured('welcome', { who: { name: 'Tobias' } }, /did you mean "/);
    expect(again.result).to.equal('Welcome, Tobias!');
    house.service.flows.drafts.save(WELCOME);
    await house.api.runFlow({ name: 'welcome', body: { input: { who: { name: 'Ines' } } } });
    await page.goto(`${house.service.url}/problems`);
    const row = page.getByRole('row', { name: /input.who.nmae/ });
    await row.getByText('recurring').waitFor();
    await expectAccessible(page, 'problems');
    await row.getByRole('link', { name: /input.who.nmae/ }).click();
    await page.getByRole('heading', { name: 'Problem in welcome' }).waitFor();
    await page.getByText('seen in 2 runs').waitFor();
    await expectAccessible(page, 'a problem');
    await page.getByLabel('The change that resolved it, or a reason').fill('the form sends it so');
    await page.getByRole('button', { name: 'Expected for' }).click();
    await page.getByText('owner said: the form sends it so').waitFor();
    await page.getByRole('button', { name: 'Reopen' }).click();
    await page.getByRole('button', { name: 'Resolve' }).waitFor();
    await page.getByRole('link', { name: run }).click();
    await page.getByRole('link', { name: 'Affected runs' }).waitFor();
    await expectAccessible(page, 'a run with a finding');
  });

  it('a tool that goes by another name now', async () => {
    const { again } = await cured('load', {}, /has no tool "shedule_load"/, 'live');
    // The change is in the draft: what is live goes on as it was.
    expect(again.state).to.equal('failed');
    const { state } = await house.api.runFlow({ name: 'load', body: {} });
    expect(state).to.equal('done');
  });

  it('a model that is not there', async () => {
    const { again } = await cured('lost-desk', { message: 'Hello' }, /does not know this model name/);
    expect(again.state).to.equal('done');
  });

  it('a flow that is called and was never published', async () => {
    const { again } = await cured('outer', {}, /no published revision/, 'live');
    expect(again.result).to.equal('Well.');
  });

  it('a limit that is too low', async () => {
    const { again } = await cured(
      'desk-in-a-hurry',
      { message: 'Send 40 kg of gas up to larch on 2027-02-13.' },
      /used its one round/,
    );
    expect(again.state).to.equal('done');
  });

  it('is done again from a step on, and asked first where that makes a difference', async () => {
    const { run } = await house.api.runFlow({ name: 'load', body: {} });
    await page.goto(`${house.service.url}/runs/${run}`);
    await retryOptions(page, () => page.getByLabel('Start from').selectOption('lift'));
    const before = lift.loads().length;
    await page.getByRole('button', { name: 'Retry', exact: true }).click();
    await page.getByRole('alert').getByText('The retry would repeat side effects: lift').waitFor();
    expect(lift.loads()).to.have.length(before);
    await page.getByRole('button', { name: 'Repeat side effects' }).click();
    await page.waitForURL((url) => !url.pathname.endsWith(run));
    await until(async () => lift.loads().length === before + 1, 'the load');
    const [failed] = (await house.api.listRuns({ query: { flow: 'load', state: 'failed' } })).items;
    const [well] = (await house.api.listRuns({ query: { flow: 'load', state: 'done' } })).items;
    await page.goto(`${house.service.url}/runs/${failed!.id}/compare?other=${well!.id}`);
    await page.getByText('First difference: lift.').waitFor();
    await expectAccessible(page, 'two runs');
  });

  it('is found by filters that the address keeps, and summed up', async () => {
    await page.goto(`${house.service.url}/runs`);
    await page.getByText('More filters').click();
    await page.getByLabel('What was found').fill('flow_not_published');
    await page.keyboard.press('Enter');
    await page.waitForURL(/finding=flow_not_published/);
    await page.reload();
    const outer = page.getByRole('link', { name: 'outer', exact: true });
    await until(async () => (await outer.count()) === 1, 'one run');
    await page.getByRole('button', { name: 'Save run filter' }).click();
    await page.getByLabel('Name of the run filter').fill('nobody published it');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'More about nobody published it' }).waitFor();
    await expectAccessible(page, 'runs with filters');
    await page.goto(`${house.service.url}/runs`);
    await page.getByLabel('Saved filters').selectOption('nobody published it');
    await page.waitForURL(/finding=flow_not_published/);
    await until(async () => (await outer.count()) === 1, 'one run');
    await page.goto(`${house.service.url}/metrics?by=tool`);
    await page.getByRole('link', { name: 'schedule_load' }).waitFor();
    await expectAccessible(page, 'metrics');
    await page.getByRole('link', { name: 'schedule_load' }).click();
    await page.waitForURL(/tool=schedule_load/);
  });
});

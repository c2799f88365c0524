import { type FaultyServer, type Lift, PROGRAMS, startFaultyServer } from '@pindro/standins';
import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { expectAccessible } from '../support/browser.js';
import { type ConsolePage, consolePage } from '../support/console-page.js';
import { startTestLift, until, type Workspace } from '../support/workspace.js';

const node = process.execPath;

describe('tool servers in the console', function () {
  this.timeout(120_000);
  let console: ConsolePage;
  let house: Workspace;
  let page: Page;
  let lift: Lift;
  let faulty: FaultyServer;
  const open = (path: string) => console.open(path);
  const view = (label: RegExp) =>
    page.getByRole('navigation', { name: 'Views of the tool server' }).getByRole('button', { name: label }).click();

  before(async () => {
    [console, lift, faulty] = await Promise.all([consolePage(), startTestLift(), startFaultyServer()]);
    ({ house, page } = console);
  });
  after(() => Promise.all([console.close(), lift.close(), faulty.close()]));
  afterEach(function () {
    return console.calm(this.currentTest?.state === 'failed');
  });

  it('a command line is attached as it is pasted; one that crashes shows its last words', async () => {
    await open('/servers');
    await page.getByRole('button', { name: 'Attach a tool server' }).first().click();
    const dialog = page.getByRole('dialog');
    const text = dialog.getByLabel('Server settings');
    await text.fill(`TRAIL_TOKEN=s3cret-of-the-trail ${node} ${PROGRAMS.trails} --reports /no/such/file`);
    await dialog.getByText('The value of TRAIL_TOKEN is stored encrypted').waitFor();
    expect(await dialog.innerText()).not.to.contain('s3cret');
    await dialog.getByRole('button', { name: 'Test and attach' }).click();
    await dialog.getByText(/there is no file \/no\/such\/file/).waitFor();
    const parts = dialog.getByRole('list', { name: 'Test' });
    await parts.getByText('Program started').waitFor();
    await parts.getByText('failed', { exact: true }).first().waitFor();
    await expectAccessible(page, 'a test that failed');
    await text.fill(`TRAIL_TOKEN=s3cret-of-the-trail ${node} ${PROGRAMS.trails}`);
    await dialog.getByLabel('Name', { exact: true }).fill('trails');
    await dialog.getByRole('button', { name: 'Test and attach' }).click();
    await page.getByRole('heading', { level: 1, name: 'trails' }).waitFor();
    await page.getByText('Trail Report 1.2.0').waitFor();
  });

  it('a tool is looked at, called, kept as a sample, done again, and becomes a step', async () => {
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: tour\ntitle: Tour\nsteps: { a: { kind: text, with: { text: go } } }',
    );
    await open('/servers/trails');
    await page.getByRole('button', { name: 'Details of trail_report' }).click();
    const table = page.getByRole('region', { name: 'Arguments' });
    await table.getByText('Which trail, for example larch-traverse').waitFor();
    await page.getByText('Pindro retries it automatically after a lost connection').waitFor();
    await expectAccessible(page, 'a tool that is looked at');
    await page.getByRole('button', { name: 'Try trail_report' }).click();
    await page.getByLabel('Trail', { exact: true }).fill('larch-traverse');
    await page.getByRole('button', { name: 'Call', exact: true }).click();
    await page.getByText('Old snow below the second saddle.').waitFor();
    await page.getByLabel('Save this call as').fill('larch');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    const kept = page.getByRole('list', { name: 'Saved calls of trail_report' });
    await kept.getByRole('button', { name: 'larch', exact: true }).click();
    await page.getByText(/(Responded|Returned|Answered) in \d+ ms/).waitFor();
    await expectAccessible(page, 'a tool that was tried');
    await page.getByRole('button', { name: 'Create a step …' }).click();
    await page.getByLabel('Flow', { exact: true }).selectOption('tour');
    await page.getByRole('button', { name: 'Add to the flow' }).click();
    await page.waitForURL(/\/flows\/tour/);
    const { document } = await house.api.getFlow({ name: 'tour' });
    expect((document as { steps: object }).steps).to.deep.include({
      tool: {
        kind: 'tool',
        after: ['a'],
        with: { server: 'trails', tool: 'trail_report', arguments: { trail: 'larch-traverse' } },
      },
    });
    await open('/servers/trails?view=activity');
    await page.getByRole('region', { name: 'Usage by tool' }).getByText('trail_report').waitFor();
    await expectAccessible(page, 'what happened lately');
  });

  it('the log of a program that crashed leads to the cure', async () => {
    const { program } = await house.api.getServer({ name: 'trails' });
    const broken = { ...program!, args: [PROGRAMS.trails, '--reports', '/no/such/file'] };
    await house.api.updateServer({ name: 'trails', body: { program: broken, skipTest: true } });
    await house.api.callServerTool({ name: 'trails', tool: 'list_trails', body: { arguments: {} } }).catch(() => {});
    await open('/servers/trails');
    await page.getByText('unreachable').waitFor();
    await page.getByRole('link', { name: 'View log' }).click();
    const log = page.getByRole('log', { name: 'Log of trails' });
    await log
      .getByText('trail-report: give --reports FILE with one that is there, or leave it out', { exact: true })
      .waitFor();
    await log.getByText('the program exited with code 2').waitFor();
    await expectAccessible(page, 'a log');
    // What it says is done: the option is left out.
    await page.getByRole('button', { name: 'Edit', exact: true }).click();
    const dialog = page.getByRole('dialog');
    for (const index of [3, 2]) await dialog.getByRole('button', { name: `Remove Arguments ${index}` }).click();
    await dialog.getByRole('button', { name: 'Save' }).click();
    await dialog.waitFor({ state: 'detached' });
    await until(async () => (await house.api.getServer({ name: 'trails' })).trouble === null, 'it to be well');
    const answer = await house.api.callServerTool({ name: 'trails', tool: 'list_trails', body: { arguments: {} } });
    expect(answer.isError).to.equal(false);
  });

  it('what changed overnight is shown, refused and accepted in part; the watch is chosen beside it', async () => {
    await house.api.attachServer({ body: { name: 'faulty', url: faulty.url } });
    await until(async () => (await house.api.getServer({ name: 'faulty' })).state === 'ready', 'it to be there');
    await open('/servers/faulty');
    faulty.turn('orders');
    await view(/Changes \(1 on hold\)/);
    await page.getByText('The text instructs the model').waitFor();
    await page.getByText('Does what its name says: good.').first().waitFor();
    await expectAccessible(page, 'the difference of a tool list');
    await page.getByRole('button', { name: 'Reject good' }).click();
    await page.getByText(/rejected it/).waitFor();
    await page.getByLabel('When tools change,').selectOption('hold');
    await until(async () => (await house.api.getServer({ name: 'faulty' })).watch === 'hold', 'the watch');
    faulty.turn('stricter');
    await page.getByText('Calls without hut fail.').first().waitFor();
    await page.getByRole('button', { name: 'Accept slow' }).click();
    await page.getByText('No changes since the tools were accepted').waitFor();
    await page.getByText(/accepted slow/).waitFor();
    expect((await house.api.getServer({ name: 'faulty' })).held).to.equal(0);
  });

  it('what a server says of itself stands there, with a rule for every tool as a field of the page', async () => {
    await open('/servers/trails?view=about');
    await page.getByText('Ask for the report of a trail before').waitFor();
    await page.getByText('flow "tour"').waitFor();
    await page.getByLabel('Supplied by trail', { exact: true }).selectOption('value');
    await page.getByLabel('Value of trail', { exact: true }).fill('larch-traverse');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await page.getByText('Saved.').waitFor();
    expect((await house.api.getServer({ name: 'trails' })).rules).to.deep.equal({ trail: { set: 'larch-traverse' } });
    await expectAccessible(page, 'what a server says of itself');
  });

  it('who supplies an argument shows on its tool, in a step, in a toolbox and on an endpoint', async () => {
    await open('/servers/trails');
    await page.getByRole('button', { name: 'Details of trail_report' }).click();
    await page.getByRole('cell', { name: '"larch-traverse"' }).waitFor();

    await house.service.flows.drafts.saveDraft('supplied', {
      format: 'pindro/flow@1',
      name: 'supplied',
      steps: {
        report: { kind: 'tool', with: { server: 'trails', tool: 'trail_report', arguments: {} } },
        desk: { kind: 'agent', with: { model: 'house', message: 'hello', toolbox: [{ server: 'trails' }] } },
      },
    });
    await open('/flows/supplied');
    await page.getByText('trail_report').first().click();
    await page.getByText('trail: "larch-traverse" (rule of tool server trails)').waitFor();
    await expectAccessible(page, 'a step with a supplied argument');
    await page.getByRole('button', { name: 'tool server trails' }).click();
    await page.getByRole('button', { name: 'Configure trail_report' }).click();
    const who = page.getByLabel('Supplied by trail', { exact: true });
    expect(await who.inputValue()).to.equal('rule');
    await who.selectOption('caller');
    await until(async () => {
      const { document } = await house.api.getFlow({ name: 'supplied' });
      return JSON.stringify(document).includes('{"trail":"ask"}');
    }, 'the rule of the row');

    house.service.endpoints.save(
      'format: pindro/endpoint@1\nname: reports\ntools: { look: { server: trails, tool: trail_report } }\n',
    );
    await open('/endpoints/reports');
    await page.getByText('trail = "larch-traverse" (rule of tool server trails)').waitFor();
    await page.getByRole('button', { name: /^Description and arguments/ }).click();
    await page.getByText('argument rule of the tool server').waitFor();
    await page.getByLabel('Supplied by trail of look').selectOption('caller');
    await page.getByText('argument rule of the tool server').waitFor({ state: 'detached' });
    const [tool] = (await house.api.getEndpoint({ name: 'reports' })).toolList;
    expect(tool!.arguments[0]).to.include({ name: 'trail', supplied: 'asked', rule: 'own' });
  });
});

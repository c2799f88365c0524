import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Lift } from '@pindro/standins';
import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { expectAccessible, expectDistinctNames } from '../support/browser.js';
import { type ConsolePage, consolePage } from '../support/console-page.js';
import { furnish, LIFT_KEY, startTestLift, type Workspace } from '../support/workspace.js';

const LOAD = `format: pindro/flow@1
name: load
title: Send a load
input: { type: object, properties: { hut: { type: string }, day: { type: string }, kg: { type: integer } } }
steps:
  # The lift carries it.
  lift: { kind: tool, with: { server: lift, tool: list_loads, arguments: { hut: "\${ input.hut }" } } }
  many: { kind: choose, after: [lift], with: { when: { some: "\${ steps.lift.data != null }" } } }
  note: { kind: text, after: [many.some], with: { text: "For \${ input.hut }" } }
result: "\${ steps.note.text }"
`;

describe('a flow that is shared', function () {
  this.timeout(120_000);
  let console: ConsolePage;
  let house: Workspace;
  let page: Page;
  let lift: Lift;
  before(async () => {
    [console, lift] = await Promise.all([consolePage(), startTestLift()]);
    ({ house, page } = console);
    furnish(house.service);
    await house.api.attachServer({ body: { name: 'lift', url: lift.url, secret: LIFT_KEY } });
    await house.api.importFlow({ body: { document: LOAD } });
    await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  });
  after(() => Promise.all([console.close(), lift.close()]));
  afterEach(function () {
    return console.calm(this.currentTest?.state === 'failed');
  });

  const menu = async (item: string) => {
    await page.getByRole('button', { name: 'More about load' }).click();
    await page.getByRole('menuitem', { name: item }).click();
  };
  /** Exports the flow by its menu. @returns where the file is */
  const exported = async (item: string, name: string) => {
    const [download] = await Promise.all([page.waitForEvent('download'), menu(item)]);
    expect(download.suggestedFilename()).to.equal(name);
    return download.path();
  };

  it('is exported by its menu as a document and as a bundle, and its link is copied', async () => {
    await console.open('/flows/load');
    expect(readFileSync(await exported('Export document', 'load.yaml'), 'utf8')).to.equal(LOAD);
    const bundle = readFileSync(await exported('Export bundle', 'load.bundle.yaml'), 'utf8');
    expect(bundle).to.contain('format: pindro/bundle@1').and.not.contain(LIFT_KEY);
    writeFileSync(join(house.data, 'load.bundle.yaml'), bundle);
    await menu('Share link');
    await page.getByText('Copied the link to flow load.').waitFor();
    // The service is reached over loopback, where the browser allows the clipboard.
    expect(await page.evaluate('navigator.clipboard.readText()')).to.equal(`${house.service.url}/flows/load`);
  });

  it('is imported from its bundle on the workspace page, matched to what is there', async () => {
    await house.api.copyServer({ name: 'lift', body: { to: 'cable' } });
    await house.api.removeFlow({ name: 'load' });
    await console.open('/workspace');
    await page.getByLabel('Choose files').setInputFiles(join(house.data, 'load.bundle.yaml'));
    const view = page.getByRole('region', { name: 'Bundle of flow load' });
    await view.getByText('new', { exact: true }).waitFor();
    await view.getByText('exists', { exact: true }).waitFor();
    await view.getByLabel('Use instead of tool server lift').selectOption('cable');
    await expectAccessible(page, 'a bundle');
    await view.getByRole('button', { name: 'Import as drafts' }).click();
    await view.getByRole('link', { name: 'load' }).waitFor();
    expect((await house.api.getFlow({ name: 'load' })).text).to.contain('server: cable');

    await page.getByLabel('Choose files').setInputFiles(join(house.data, 'load.bundle.yaml'));
    await view.getByText('overwrites the draft here').waitFor();
    await view.getByRole('button', { name: 'Overwrite and import' }).click();
    await view.getByRole('link', { name: 'load' }).waitFor();
    expect((await house.api.getFlow({ name: 'load' })).text).to.contain('server: lift');
  });

  it('says why where a bundle cannot be read, or comes with other files', async () => {
    const broken = join(house.data, 'broken.yaml');
    writeFileSync(broken, 'format: pindro/bundle@1\nflow: x\n');
    await page.getByLabel('Choose files').setInputFiles(broken);
    await page.getByRole('alert').getByText('This is not a bundle').waitFor();
    await page.getByLabel('Choose files').setInputFiles([broken, join(house.data, 'load.bundle.yaml')]);
    await page.getByRole('alert').getByText('A bundle must be imported alone').waitFor();
  });

  it('has controls with names of their own in the editor, and announces the result of a run', async () => {
    await console.open('/flows/load');
    await page.getByRole('tab', { name: 'Flow' }).click();
    await expectDistinctNames(page, 'the inputs of a flow');
    await page.getByText('list_loads').first().click();
    await expectDistinctNames(page, 'a step');
    await page.getByRole('button', { name: 'Branch some of many' }).waitFor();
    await page.getByRole('button', { name: 'Try', exact: true }).click();
    await page.getByLabel(/^Hut/).fill('larch');
    await expectDistinctNames(page, 'trying a flow');
    await page.getByRole('button', { name: 'Run', exact: true }).click();
    await page
      .getByRole('status', { name: 'Result of the run' })
      .getByText('The run is done. Result: For larch')
      .waitFor();
  });
});

import { createClient } from '@pindro/contract';
import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { expectAccessible, openBrowser } from '../support/browser.js';
import { type DemoContract, type Running, startDemo } from '../support/process.js';
import { callTool, connect, discard, temporary } from '../support/workspace.js';

describe('the workshop in the console', function () {
  this.timeout(120_000);
  const data = temporary();
  let demo: Running<DemoContract>;
  let browser: Browser;
  let page: Page;
  const faults: string[] = [];
  before(async () => {
    demo = await startDemo(data);
    browser = await openBrowser();
    page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    page.on('pageerror', (error) => faults.push(error.message));
    await page.goto(demo.contract.signIn);
  });
  after(async () => {
    await browser.close();
    await demo.stop();
    discard(data);
  });
  afterEach(() => expect(faults.splice(0), 'errors in the browser').to.deep.equal([]));

  it('is switched on and opened by clicks, and its proposal is taken into the draft', async () => {
    await page.goto(`${demo.contract.url}/endpoints`);
    await page.getByRole('link', { name: 'Workshop for coding assistants' }).click();
    await page.getByText('The workshop is disabled.').waitFor();
    await page.getByRole('button', { name: 'Enable' }).click();
    await page.getByText('The workshop is enabled.').waitFor();
    await page.getByRole('checkbox', { name: /^bunk-availability/ }).check();
    await page.getByRole('checkbox', { name: /^bunk-availability/, checked: true }).waitFor();
    await expectAccessible(page, 'the flows of the workshop');
    await page.getByRole('button', { name: 'Instructions' }).click();
    await page.getByText('to you: bunk-availability.').waitFor();
    await page.getByRole('button', { name: 'Keys' }).click();
    await page.getByLabel('Caller').fill('coder');
    await page.getByLabel('Read whole flows and propose changes').check();
    await page.getByRole('button', { name: 'Issue key' }).click();
    await page.getByText('Key for coder.').waitFor();
    await expectAccessible(page, 'the keys of the workshop');

    const api = createClient({ url: demo.contract.url, key: demo.contract.apiKey });
    const { key } = await api.issueKey({ body: { name: 'coder-2', endpoints: ['workshop'], propose: true } });
    const assistant = await connect(demo.contract, key, 'workshop');
    const { structuredContent } = await callTool(assistant, 'read_flow', { flow: 'bunk-availability' });
    const { document } = structuredContent as { document: string };
    const why = 'Looks at more bookings than a thousand';
    await callTool(assistant, 'propose_flow', { document: document.replace('limit: 1000', 'limit: 5000'), why });
    await assistant.close();

    await page.getByRole('button', { name: 'Proposals (1)' }).click();
    await page.getByText('Step taken: limit changed').waitFor();
    await expectAccessible(page, 'a proposal');
    await page.getByLabel(/^Reply to the proposer/).fill('Good');
    await page.getByRole('button', { name: 'Accept into the draft' }).click();
    await page.getByRole('link', { name: 'Open the flow' }).waitFor();
    expect((await api.getFlow({ name: 'bunk-availability' })).text).to.contain('limit: 5000');
    await page.getByText('owner: “Good”').waitFor();
  });
});

import type { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import { ToolListChangedNotificationSchema } from '@modelcontextprotocol/sdk/types.js';
import { createClient } from '@pindro/contract';
import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { expectAccessible, openBrowser } from '../support/browser.js';
import { type DemoContract, type Running, startDemo } from '../support/process.js';
import { callTool, connect, discard, temporary, until } from '../support/workspace.js';

const ROUGH = `format: pindro/flow@1
name: bunks
title: Bunks of a hut
input: { type: object, required: [hut], properties: { hut: { type: string, description: "One of kestrel, larch" }, n: { type: integer } } }
steps:
  find: { kind: table, with: { table: huts, do: find, where: { name: "\${ input.hut }" }, limit: 3 } }
result: { rows: "\${ steps.find.rows }" }
`;

describe('serving tools in the console', function () {
  this.timeout(120_000);
  const data = temporary();
  let demo: Running<DemoContract>;
  let browser: Browser;
  let page: Page;
  const faults: string[] = [];
  const open = (path: string) => page.goto(demo.contract.url + path);
  const keyOf = (caller: string) => demo.contract.endpoints[0]!.keys.find((key) => key.caller === caller)!.key;
  before(async () => {
    demo = await startDemo(data);
    browser = await openBrowser();
    page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    page.on('pageerror', (error) => faults.push(error.message));
    await page.goto(demo.contract.signIn);
    const api = createClient({ url: demo.contract.url, key: demo.contract.apiKey });
    await api.importFlow({ body: { document: ROUGH } });
    await api.publishFlow({ name: 'bunks', body: {} });
  });
  after(async () => {
    await browser.close();
    await demo.stop();
    discard(data);
  });
  afterEach(() => expect(faults.splice(0), 'errors in the browser').to.deep.equal([]));

  it('makes an endpoint and puts tools on it, by clicks alone', async () => {
    await open('/endpoints');
    await page.getByRole('button', { name: 'New endpoint' }).click();
    await page.getByLabel('Name in its address').fill('wardens');
    await page.getByRole('button', { name: 'Create' }).click();
    await page.getByText('No tools yet').waitFor();
    await page.getByRole('button', { name: 'Add tools' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByText('list_loads', { exact: true }).waitFor();
    await expectAccessible(page, 'the choice of tools');
    await dialog.getByLabel('Find tools').fill('bunks');
    await dialog.getByRole('checkbox', { name: /^bunks flow/ }).check();
    await dialog.getByRole('button', { name: 'Add 1' }).click();
    await dialog.waitFor({ state: 'detached' });
    await page.getByRole('heading', { name: /^bunks/ }).waitFor();
  });

  it('changes words where they stand, and a connected client has them at once', async () => {
    const client = await connect({ url: demo.contract.url }, keyOf('ines'));
    await client.listTools();
    let heard = 0;
    client.setNotificationHandler(ToolListChangedNotificationSchema, () => void heard++);
    await open('/endpoints/huts');
    await page.getByRole('button', { name: 'Description and arguments of bunk_availability' }).click();
    await expectAccessible(page, 'a tool with its words');
    await page.getByLabel('Name for clients').fill('free_bunks');
    await page.getByLabel('Name for clients').blur();
    await page.getByRole('heading', { name: /^free_bunks/ }).waitFor();
    await until(() => heard > 0, 'the client to hear of it');
    const answer = await callTool(client, 'free_bunks', { hut: 'larch', night: '2027-02-14' });
    expect(answer.isError).to.not.equal(true);
    await page.getByLabel('Description', { exact: true }).fill('How many bunks are free in a hut on one night.');
    await page.getByLabel('Description', { exact: true }).blur();
    await page.getByText('overridden: description', { exact: true }).waitFor();
    expect((await client.listTools()).tools[0]!.description).to.equal('How many bunks are free in a hut on one night.');
    await page.getByRole('button', { name: 'Reset' }).click();
    await page.getByText('overridden: description', { exact: true }).waitFor({ state: 'detached' });
    await page.getByLabel('Supplied by hut of free_bunks').selectOption('value');
    await page.getByLabel('Value of hut').fill('larch');
    await page.getByLabel('Value of hut').blur();
    await page.getByText('hut = "larch"').waitFor();
    await (client.transport as StreamableHTTPClientTransport).terminateSession();
    await client.close();
  });

  it('reviews a list, applies what it proposes, and asks a model what it would choose', async () => {
    await open('/endpoints/wardens?view=review');
    await page.getByRole('heading', { name: /lists its allowed values in its description only/ }).waitFor();
    const before = await page.getByText(/tools?, about \d+ tokens/).textContent();
    await expectAccessible(page, 'the review');
    await page.getByRole('button', { name: /^Apply \d+ suggestions/ }).click();
    await page.getByText('No findings').waitFor();
    expect(await page.getByText(/tools?, about \d+ tokens/).textContent()).to.not.equal(before);
    expect(await page.getByRole('region', { name: 'tool list' }).textContent()).to.contain('"enum"');
    await open('/endpoints/huts?view=review');
    await page.getByLabel('Prompt').fill('Is there room for 3 in the larch hut on 2027-02-14?');
    await page.getByRole('button', { name: 'Ask', exact: true }).click();
    await page
      .getByText(/The model would call/)
      .first()
      .waitFor();
    await expectAccessible(page, 'the choice of a model');
  });

  it('tells who connects, and which part fails when nobody does', async () => {
    await open('/endpoints/huts?view=connect');
    await page.getByRole('button', { name: 'Test the connection' }).click();
    await page.getByText('A client can connect.').waitFor();
    await page.getByLabel('Key in the settings').fill('pindro_mistyped');
    await page.getByRole('button', { name: 'Test the connection' }).click();
    await page.getByText('A client cannot connect.').waitFor();
    await page.getByText('Issue a new one').first().waitFor();
    await expectAccessible(page, 'the connect panel');
    const client = await connect({ url: demo.contract.url }, keyOf('tobias'));
    await page.getByText('test-client 1.0.0 with key').waitFor();
    await client.callTool({ name: 'reserve_bunks', arguments: { hut: 'larch', night: 'soon', party: 1 } });
    await page
      .getByText(/called reserve_bunks, failed/)
      .first()
      .waitFor();
    await open('/endpoints/huts?view=use');
    await page.getByRole('img', { name: /calls?, \d+ of them failed/ }).waitFor();
    await page.getByRole('button', { name: 'End the session of test-client' }).click();
    // A client of a test before may have one open still.
    const other = page.getByRole('button', { name: /^End the session of/ }).first();
    await until(async () => {
      if (await other.isVisible()) await other.click({ timeout: 2000 }).catch(() => {});
      return page.getByText('No client has an open session.').isVisible();
    }, 'all sessions to end');
    await expectAccessible(page, 'the use of an endpoint');
    expect(await client.listTools().catch((error: Error) => error.message)).to.contain('Unknown session');
  });

  it('makes keys with just what they need, and renames and removes endpoints', async () => {
    await open('/endpoints/wardens?view=keys');
    await page.getByLabel('Caller').fill('marit');
    await page.getByLabel('New name in Attributes').fill('hut');
    await page.getByLabel('New name in Attributes').press('Enter');
    await page.getByLabel('hut', { exact: true }).fill('stonewater');
    await page.getByLabel('Read-only tools only').check();
    await page.getByLabel('Rate limit').fill('30');
    await page.getByLabel('Expires').selectOption('30d');
    await page.getByRole('button', { name: 'Issue key' }).click();
    await page.getByText(/read-only tools; 30 calls a minute; until/).waitFor();
    await page.getByText('hut: stonewater').waitFor();
    await expectAccessible(page, 'the keys');
    await open('/endpoints/wardens?view=about');
    await page.getByLabel('Anybody who reaches its address').check();
    await page.getByText('can then be called without a key').waitFor();
    await expectAccessible(page, 'the description of an');
    await page.getByRole('heading', { level: 1 }).getByRole('button').click();
    await page.getByLabel('New name of the endpoint').fill('guides');
    await page.keyboard.press('Enter');
    await page.waitForURL('**/endpoints/guides?view=about');
    await page.getByText('Former addresses that still work: wardens').waitFor();
    await page.getByRole('button', { name: 'More about guides' }).click();
    await page.getByRole('menuitem', { name: 'Remove' }).click();
    // A key still opens it: what that breaks is told first, and there is a way back.
    await page.getByRole('dialog').getByText(/key/).first().waitFor();
    await page.getByRole('button', { name: 'Remove anyway' }).click();
    await page.waitForURL('**/endpoints');
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByRole('link', { name: 'wardens' }).waitFor();
  });

  it("gives a tool a picture and the caller's own credential, which a new key then names", async () => {
    await open('/endpoints/huts');
    await page.getByRole('button', { name: 'Description and arguments of next_lift_loads' }).click();
    const dot = Buffer.from(
      'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
      'base64',
    );
    await page.getByLabel('Icon from a file').setInputFiles({ name: 'dot.png', mimeType: 'image/png', buffer: dot });
    await page.locator('h3 img').waitFor();
    await page.getByLabel('Credential').selectOption('caller');
    await page.getByText("with the caller's own credential").waitFor();
    await expectAccessible(page, 'a tool with a picture');
    await open('/endpoints/huts?view=keys');
    await page.getByLabel('Caller').fill('marit');
    await page.getByLabel('Own credential for lift').selectOption({ index: 1 });
    await page.getByRole('button', { name: 'Issue key' }).click();
    await page.getByText(/^lift with \S+/).waitFor();
    await open('/endpoints/huts');
    await page.getByRole('button', { name: 'Description and arguments of next_lift_loads' }).click();
    await page.getByLabel('Credential').selectOption('workspace');
    await page.getByText("with the caller's own credential").waitFor({ state: 'detached' });
  });

  it("reviews an agent's toolbox where it is drawn, and mends it there", async () => {
    const api = createClient({ url: demo.contract.url, key: demo.contract.apiKey });
    const document = {
      format: 'pindro/flow@1',
      name: 'rough-desk',
      steps: { answer: { kind: 'agent', with: { model: 'house', message: 'hello', toolbox: [{ flow: 'bunks' }] } } },
    };
    await api.importFlow({ body: { document } });
    await open('/flows/rough-desk');
    await page.locator('.svelte-flow__node[data-id="answer"]').click();
    await page.getByRole('button', { name: 'Review these tools' }).click();
    await page.getByText(/^1 tool, about \d+ tokens\. \d findings?\.$/).waitFor();
    await expectAccessible(page, 'suggestions of a toolbox');
    await page
      .getByRole('button', { name: /^Apply.*hut/ })
      .first()
      .click();
    await until(
      async () => (await api.getFlow({ name: 'rough-desk' })).text.includes('kestrel'),
      'the draft to be mended',
    );
  });

  it("moves an agent's own tools onto an endpoint, where others have them too", async () => {
    const api = createClient({ url: demo.contract.url, key: demo.contract.apiKey });
    await api.importFlow({
      body: {
        document: {
          format: 'pindro/flow@1',
          name: 'ropeway-desk',
          input: { type: 'object', properties: { message: { type: 'string' } } },
          steps: {
            answer: {
              kind: 'agent',
              with: { model: 'house', message: '${ input.message }', toolbox: [{ server: 'lift', use: ['list_*'] }] },
            },
          },
        },
      },
    });
    await open('/flows/ropeway-desk');
    await page.locator('.svelte-flow__node[data-id="answer"]').click();
    // What is known of the server comes in above and moves it: it is pressed again if that was missed.
    const endpoint = page.getByLabel('Endpoint; created if it does not exist');
    await until(async () => {
      await page.getByText('Share these tools').click();
      return endpoint.isVisible();
    }, 'the fold to open');
    await endpoint.fill('ropeway');
    await page.getByRole('button', { name: 'Move', exact: true }).click();
    await page.getByText('They are now on').waitFor();
    await expectAccessible(page, 'the moved tools');
    expect((await api.getEndpoint({ name: 'ropeway' })).toolList.map(({ name }) => name)).to.deep.equal(['list_loads']);
    await page.locator('.svelte-flow__node[data-id="answer"]').getByText('endpoint ropeway').waitFor();
  });

  it('lets people in by a link, who set a password and see what they may not do', async () => {
    await open('/people');
    await page.getByRole('heading', { name: 'Add person' }).waitFor();
    await page.getByLabel('Name', { exact: true }).fill('tobias');
    await page.getByLabel('Role', { exact: true }).selectOption('viewer');
    await page.getByRole('button', { name: 'Add' }).click();
    await page.getByRole('button', { name: /^Show the key/ }).click();
    const link = (await page.getByRole('region', { name: 'sign-in link' }).textContent())!.trim();
    await expectAccessible(page, 'the people');
    const guest = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    await guest.goto(link);
    await guest.goto(`${demo.contract.url}/people`);
    await guest.getByText('views everything and changes nothing').waitFor();
    await guest.getByLabel('New password, at least 10 characters').fill('a quiet hut on the ridge');
    await guest.getByRole('button', { name: 'Set password' }).click();
    await guest.getByRole('heading', { name: 'You are not signed in' }).waitFor();
    await expectAccessible(guest, 'signing in');
    await guest.getByLabel('Name').fill('tobias');
    await guest.getByLabel('Password').fill('something else');
    await guest.getByRole('button', { name: 'Sign in' }).click();
    await guest.getByText('The name or password is wrong').waitFor();
    await guest.getByLabel('Password').fill('a quiet hut on the ridge');
    await guest.getByRole('button', { name: 'Sign in' }).click();
    await guest.getByRole('heading', { name: 'Overview' }).waitFor();
    await guest.goto(`${demo.contract.url}/endpoints/huts?view=about`);
    await guest.getByRole('button', { name: 'Save' }).click();
    await guest.getByText('tobias has the role viewer, and this requires builder or above').waitFor();
    await guest.context().close();
  });
});

import { createClient } from '@pindro/contract';
import { expect } from 'chai';
import type { Browser, BrowserContext, Page } from 'playwright-core';
import { expectAccessible, openBrowser } from '../support/browser.js';
import { type DemoContract, type Running, startDemo } from '../support/process.js';
import { discard, LIFT_KEY, startTestLift, temporary, workspace } from '../support/workspace.js';

const CONSOLE = new URL('../../../packages/console/dist', import.meta.url).pathname;

describe('the console', function () {
  this.timeout(120_000);
  let data: string;
  let demo: Running<DemoContract>;
  let browser: Browser;
  let context: BrowserContext;
  let page: Page;
  const faults: string[] = [];
  const api = () => createClient({ url: demo.contract.url, key: demo.contract.apiKey });
  const open = async (path: string) => {
    await page.goto(demo.contract.url + path);
    await page.getByRole('heading', { level: 1 }).waitFor();
  };
  const listen = (made: Page) => {
    made.on('pageerror', (error) => faults.push(error.message));
    made.on('console', (message) => message.type() === 'error' && faults.push(message.text()));
  };

  before(async () => {
    data = temporary();
    [demo, browser] = await Promise.all([startDemo(data), openBrowser()]);
    context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
    page = await context.newPage();
    listen(page);
    await page.goto(demo.contract.signIn);
    await page.getByRole('heading', { name: 'Overview' }).waitFor();
  });
  after(async () => {
    await browser.close();
    await demo.stop();
    discard(data);
  });
  afterEach(() => {
    expect(faults.splice(0), 'errors in the browser').to.deep.equal([]);
  });

  it('shows what failed lately on the overview', async () => {
    await page.getByText('refused weight_kg = 400').first().waitFor();
    await expectAccessible(page, 'overview');
  });

  const PAGES: [string, string | RegExp][] = [
    ['/flows', 'Reserve bunks'],
    ['/flows/reserve-bunks', 'Add a step'],
    ['/flows/reserve-group?view=ways', '/forms/reserve-group'],
    ['/flows/reserve-group?view=revisions', 'Revision 1'],
    ['/approvals', '12 people in stonewater'],
    ['/flows/warden-desk', 'endpoint huts'],
    ['/chat', "Warden's desk"],
    ['/flows/warden-desk/chat', 'Say something'],
    ['/flows/reserve-bunks?view=document', 'Saved'],
    ['/keys', 'Last used'],
    ['/workspace', 'Drop files here'],
    ['/people', 'You are'],
    ['/endpoints', '/mcp/huts'],
    ['/endpoints/huts', 'next_lift_loads'],
    ['/servers', 'Valley Lift'],
    ['/servers/lift', 'schedule_load'],
    ['/models', 'chat-completions'],
    ['/credentials', 'lift-key'],
    ['/tables', 'bookings'],
    ['/tables/bookings', 'stonewater'],
    ['/mailbox', 'is booked'],
    ['/runs', 'manually'],
    ['/nowhere', 'No page'],
  ];
  for (const [path, text] of PAGES) {
    it(`${path} shows what it is for and is accessible, in light and dark`, async () => {
      await open(path);
      await page.getByText(text).first().waitFor();
      await page.waitForTimeout(150);
      await expectAccessible(page, `${path} in light`);
      await page.emulateMedia({ colorScheme: 'dark' });
      await expectAccessible(page, `${path} in dark`);
      await page.emulateMedia({ colorScheme: 'light' });
      // The browser reports the status of the page itself.
      if (path === '/nowhere') expect(faults.splice(0).join()).to.contain('status of 404');
    });
  }

  it('shows every page of the navigation at once', async () => {
    await open('/');
    const links = page.getByRole('navigation', { name: 'Pages' }).getByRole('link');
    await links.first().waitFor();
    const bottoms = await links.evaluateAll((all) => all.map((one) => one.getBoundingClientRect().bottom));
    const collapse = await page.getByRole('button', { name: /Collapse/ }).boundingBox();
    expect(Math.max(...bottoms)).to.be.below(collapse!.y);
  });

  it('fits a narrow screen without scrolling sideways', async () => {
    await page.setViewportSize({ width: 390, height: 800 });
    for (const path of ['/', '/flows/reserve-bunks', '/runs', '/endpoints/huts', '/flows/warden-desk/chat']) {
      await open(path);
      await page.waitForTimeout(200);
      expect(await page.evaluate('document.documentElement.scrollWidth'), path).to.be.at.most(390);
    }
    await page.setViewportSize({ width: 1280, height: 800 });
  });

  it('runs a flow from its form and leads to the trace', async () => {
    await open('/flows/reserve-bunks');
    await page.getByRole('tab', { name: 'Try' }).click();
    await page.getByLabel('Hut', { exact: true }).selectOption('kestrel');
    await page.getByLabel('Night', { exact: true }).fill('2027-09-01');
    await page.getByLabel('Party', { exact: true }).fill('5');
    await page.getByRole('button', { name: 'Run', exact: true }).click();
    await page.getByRole('link', { name: 'View steps' }).click();
    await page.getByRole('heading', { name: 'Run of reserve-bunks' }).waitFor();
    await page.getByText('row', { exact: false }).first().waitFor();
    await page.getByRole('link', { name: /row \d+ in bookings/ }).click();
    await page.getByRole('heading', { name: 'bookings', level: 1 }).waitFor();
    // The row that the run made is shown, with the run that made it.
    await page.getByRole('dialog').getByRole('link', { name: 'in the run, step book' }).waitFor();
    await page.keyboard.press('Escape');
    await page.getByRole('gridcell', { name: 'Sep 1, 2027' }).first().waitFor();
  });

  it('refuses bad input in words, beside the form', async () => {
    await open('/flows/reserve-bunks');
    await page.getByRole('tab', { name: 'Try' }).click();
    await page.getByLabel('Hut', { exact: true }).selectOption('kestrel');
    // The last values are kept; this one is taken out again.
    await page.getByLabel('Night', { exact: true }).fill('');
    await page.getByRole('button', { name: 'Run', exact: true }).click();
    await page.getByRole('alert').getByText('"night" is missing').waitFor();
  });

  it('explains a failed run on top, with tool, argument, reason and where to change it', async () => {
    const { run } = await api().runFlow({
      name: 'send-load',
      body: { input: { hut: 'larch', day: '2027-02-14', weight_kg: 400 } },
    });
    await open(`/runs/${run}`);
    await page
      .getByRole('heading', { name: /schedule_load of lift refused weight_kg = 400: The lift carries at most 350 kg/ })
      .waitFor();
    await page.waitForTimeout(300);
    await expectAccessible(page, 'a failed run');
    // The span that shows it is chosen, and what went in stands beside the others.
    expect(await page.getByRole('listitem').getByRole('button', { pressed: true }).count()).to.equal(1);
    await page
      .getByRole('region', { name: 'tool schedule_load of lift' })
      .getByText('Input', { exact: true })
      .first()
      .waitFor();
    await page.getByRole('link', { name: /step lift of flow send-load/ }).click();
    await page.getByRole('heading', { name: 'Send a load up' }).waitFor();
    expect(page.url()).to.contain('/flows/send-load?step=lift');
  });

  it('runs the same input again', async () => {
    const { run } = await api().runFlow({
      name: 'bunk-availability',
      body: { input: { hut: 'larch', night: '2027-02-14' } },
    });
    await open(`/runs/${run}`);
    await page.getByRole('button', { name: 'Retry', exact: true }).click();
    await page.waitForURL((url) => url.pathname.startsWith('/runs/') && !url.pathname.endsWith(run));
    await page.getByText('bunks').first().waitFor();
  });

  it('shows a run that was started elsewhere without being loaded again', async () => {
    await open('/runs?flow=bunk-availability');
    await page.getByRole('table').waitFor();
    const rows = () => page.getByRole('row').count();
    const before = await rows();
    await api().runFlow({ name: 'bunk-availability', body: { input: { hut: 'kestrel', night: '2027-12-24' } } });
    await page.waitForFunction((count) => document.querySelectorAll('tr').length > count, before, { timeout: 5000 });
  });

  it('talks to the desk: each tool call is a line that opens, and the talk outlives a reload', async () => {
    await open('/flows/warden-desk/chat');
    await page
      .getByLabel('Message')
      .fill('Reserve 2 bunks in stonewater for 2027-10-01 and send 400 kg of gas up to stonewater on 2027-09-30.');
    await page.keyboard.press('Enter');
    await page.getByText('I could not schedule load').waitFor();
    const calls = page.getByRole('group', { name: 'Tool calls' });
    const lines = calls.getByRole('button', { expanded: false });
    if (await calls.getByText('parallel calls').count()) await lines.first().click();
    expect(
      await calls.getByText(/reserve bunks|schedule load|lift status|list loads|availability/).count(),
    ).to.be.at.least(2);
    await calls.getByRole('button', { name: /schedule load.*failed/ }).click();
    await calls.getByText(/Called with/).waitFor();
    await expectAccessible(page, 'the chat');
    await page.getByLabel('Message').fill('How many bunks are free there on 2027-10-01?');
    await page.keyboard.press('Enter');
    await page.getByText('free 38').last().waitFor();
    await page.getByRole('link', { name: /row \d+ in bookings/ }).waitFor();
    await page.reload();
    await page.getByText('free 38').last().waitFor();
    await page.getByRole('link', { name: /row \d+ in bookings/ }).waitFor();
    await page.getByRole('link', { name: 'View run' }).first().click();
    await page.getByRole('heading', { name: 'Run of warden-desk' }).waitFor();
  });

  it('exposes a flow in one dialog, with a key and settings that parse', async () => {
    await open('/flows/send-load');
    await page.getByRole('button', { name: 'Expose' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('On whose behalf').fill('marit');
    await page.waitForTimeout(200);
    await expectAccessible(page, 'the dialog');
    await dialog.getByRole('button', { name: 'Expose' }).click();
    await dialog.getByText('Tool send_load is on endpoint huts').waitFor();
    const settings = JSON.parse(
      (await dialog.getByRole('region', { name: 'settings for Settings file' }).textContent())!,
    );
    expect(settings.mcpServers.huts.headers.Authorization).to.match(/^Bearer pindro_/);
    const key = settings.mcpServers.huts.headers.Authorization.slice(7);
    const { status } = await fetch(`${demo.contract.url}/mcp/huts`, {
      method: 'POST',
      headers: {
        authorization: `Bearer ${key}`,
        'content-type': 'application/json',
        accept: 'application/json, text/event-stream',
      },
      body: JSON.stringify({
        jsonrpc: '2.0',
        id: 1,
        method: 'initialize',
        params: { protocolVersion: '2025-11-25', capabilities: {}, clientInfo: { name: 'x', version: '1' } },
      }),
    });
    expect(status).to.equal(200);
    await page.keyboard.press('Escape');
    await dialog.waitFor({ state: 'detached' });
  });

  it('makes a key at the endpoint and shows the client that connects', async () => {
    await open('/endpoints/huts?view=connect');
    await page.getByLabel('Issue a key for').fill('summit-tablet');
    await page.getByRole('button', { name: 'Issue key' }).click();
    const shown = page.getByRole('region', { name: 'key', exact: true });
    // It can be copied without anybody behind one's back reading it.
    expect(await shown.textContent()).to.match(/^•+$/);
    await page.getByRole('button', { name: 'Show the key in key', exact: true }).click();
    const key = (await page.getByRole('region', { name: 'key', exact: true }).textContent())!.trim();
    const { StreamableHTTPClientTransport } = await import('@modelcontextprotocol/sdk/client/streamableHttp.js');
    const { Client } = await import('@modelcontextprotocol/sdk/client/index.js');
    const client = new Client({ name: 'summit-tablet', version: '3.1.4' });
    await client.connect(
      new StreamableHTTPClientTransport(new URL(demo.contract.endpoints[0]!.url), {
        requestInit: { headers: { Authorization: `Bearer ${key}` } },
      }),
    );
    await page.getByText('summit-tablet 3.1.4 with key').waitFor();
    await client.close();
  });

  it('asks for the secret of a tool server only when the server refuses', async () => {
    const lift = demo.contract.toolServers[0]!;
    await open('/servers');
    expect(await page.getByLabel('Bearer key', { exact: true }).count()).to.equal(0);
    await page.getByRole('button', { name: 'Attach a tool server' }).click();
    await page.getByLabel('Server settings').fill(lift.url);
    await page.getByLabel('Name', { exact: true }).fill('second-lift');
    await page.getByRole('button', { name: 'Test and attach' }).click();
    await page.getByRole('alert').getByText('The server requires a key').waitFor();
    await page.getByLabel('Bearer key', { exact: true }).fill('wrong-key');
    await page.getByRole('button', { name: 'Test and attach' }).click();
    await page.getByRole('alert').getByText('refused the call as unauthorized').waitFor();
    await expectAccessible(page, 'attaching with a wrong key');
    faults.splice(0);
  });

  it('attaches from broken settings, telling what it mended before it asks anybody', async () => {
    const lift = await startTestLift();
    await open('/servers');
    await page.getByRole('button', { name: 'Attach a tool server' }).click();
    const text = page.getByLabel('Server settings');
    await text.fill('please attach my server');
    await page.getByRole('alert').getByText('neither an address, nor settings, nor a command').waitFor();
    faults.splice(0);
    await text.fill(`{ “mcpServers”: { // ours
      "Valley Cable": { "url": "${lift.older}", "headers": { "authorization": "${LIFT_KEY}", "X-Hut": "larch" } },
      "trails": { "command": "npx", "args": ["-y", "trail-reports"] },
    } }`);
    const cable = page.getByRole('form', { name: 'Tool server valley-cable' });
    await cable.getByText('The scheme Bearer was missing in front of the key and has been added.').waitFor();
    await cable.getByText('Curly quotes were replaced by straight ones.').waitFor();
    await cable.getByText('X-Hut: larch').waitFor();
    await page.getByRole('form', { name: 'Tool server trails' }).getByText('npx -y trail-reports').waitFor();
    await expectAccessible(page, 'what was recognized');
    await cable.getByRole('button', { name: 'Test and attach' }).click();
    await cable.getByRole('link', { name: 'valley-cable' }).click();
    await page.getByRole('heading', { name: 'valley-cable', level: 1 }).waitFor();
    await page.getByText('older transport').waitFor();
    await lift.close();
  });

  it('calls a tool of a server from a form made of its schema', async () => {
    await open('/servers/lift');
    await page.getByRole('listitem').filter({ hasText: 'lift_status' }).getByRole('button', { name: /^Try/ }).click();
    await page.getByRole('button', { name: 'Call', exact: true }).click();
    await page.getByText('carries kg').waitFor();
    await expectAccessible(page, 'a tried tool');
  });

  it('can be used with the keyboard alone', async () => {
    await open('/');
    await page.keyboard.press('Tab');
    expect(await page.evaluate('document.activeElement.textContent')).to.equal('Skip to content');
    for (let press = 0; press < 4; press++) await page.keyboard.press('Tab');
    expect(await page.evaluate('document.activeElement.textContent.trim()')).to.equal('Flows');
    await page.keyboard.press('Enter');
    await page.getByRole('heading', { name: 'Flows', level: 1 }).waitFor();
  });

  it('tells a stranger how to sign in', async () => {
    const stranger = await browser.newContext();
    const other = await stranger.newPage();
    await other.goto(`${demo.contract.url}/runs`);
    await other.getByRole('heading', { name: 'You are not signed in' }).waitFor();
    await expectAccessible(other, 'signed out');
    await stranger.close();
  });

  it('says in empty places what to do first', async () => {
    const house = await workspace({ console: CONSOLE });
    const fresh = await (await browser.newContext()).newPage();
    await fresh.goto(house.service.createSignInLink());
    for (const [path, words] of [
      ['/', 'Serve a flow to a client'],
      ['/flows', 'No flows yet'],
      ['/chat', 'No chat flows yet'],
      ['/runs', 'No runs yet'],
      ['/endpoints', 'No endpoints yet'],
      ['/servers', 'No tool servers yet'],
      ['/models', 'No model connections yet'],
      ['/credentials', 'No credentials yet'],
      ['/tables', 'No tables yet'],
      ['/mailbox', 'No mails yet'],
    ] as const) {
      await fresh.goto(house.service.url + path);
      await fresh.getByText(words).first().waitFor();
      await expectAccessible(fresh, `${path} when empty`);
    }
    await fresh.context().close();
    await house.close();
  });
});

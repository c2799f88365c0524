/* Takes the pictures of the console in docs/screenshots from the demo data: `npm run screenshots`, or with names of pictures. */
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium as browser } from 'playwright-core';
import { chromium } from './chromium.mjs';
import { prepare, root } from './prepare.mjs';

prepare();
const { createClient } = await import('../packages/contract/dist/index.js');
const { startFaultyServer } = await import('../packages/standins/dist/index.js');

const data = mkdtempSync(join(tmpdir(), 'pindro-pictures-'));
const demo = spawn(process.execPath, [join(root, 'scripts/demo.mjs'), '--json', '--port', '0', '--data', data], {
  stdio: ['ignore', 'pipe', 'inherit'],
});
const contract = await new Promise((resolve, reject) => {
  let text = '';
  demo.stdout.on('data', (piece) => {
    text += piece;
    if (text.includes('\n')) resolve(JSON.parse(text.split('\n')[0]));
  });
  demo.once('exit', () => reject(new Error('The demo ended')));
});
const api = createClient({ url: contract.url, key: contract.apiKey });
const faulty = await startFaultyServer();
const window = await browser.launch({ executablePath: chromium(), args: ['--no-sandbox'] });
const first = await window.newContext();
await (await first.newPage()).goto(contract.signIn);
const storageState = await first.storageState();

/** Opens a page and, once `act` is done, takes its picture. */
async function picture(name, path, act = async () => {}, colorScheme = 'light') {
  const wanted = process.argv.slice(2);
  if (wanted.length > 0 && !wanted.includes(name)) return;
  const context = await window.newContext({ viewport: { width: 1280, height: 800 }, colorScheme, storageState });
  try {
    const page = await context.newPage();
    page.setDefaultTimeout(20_000);
    await page.goto(`${contract.url}${path}`);
    await page.getByRole('heading').first().waitFor();
    await act(page);
    await page.mouse.move(0, 0);
    await page.waitForTimeout(1200);
    await page.screenshot({ path: join(root, 'docs/screenshots', `${name}.png`) });
    process.stdout.write(`${name}.png\n`);
  } finally {
    await context.close();
  }
}

const button = (page, name) => page.getByRole('button', { name });
const toolbox = async (page) => {
  await page.locator('.svelte-flow__node[data-id="desk"]').locator('h3').first().click();
  await button(page, 'Choose and configure tools').click();
  await page.getByText(/The model is offered/).waitFor();
};
const day = (days) => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);
const SETTINGS = `"mcpServers": {
  "trails-again": { "url": "${contract.toolServers[0].url}", "headers": { "Authorization": "KEY" }, }
}`;

try {
  await picture('overview', '/');
  await picture('flow', '/flows/reserve-bunks', async (page) => {
    await page.locator('.svelte-flow__node[data-id="book"]').locator('h3').first().click();
  });
  await picture('toolbox', '/flows/warden-desk', toolbox);
  await picture(
    'tame',
    '/flows/warden-desk',
    async (page) => {
      await toolbox(page);
      await button(page, 'Configure schedule_load').click();
    },
    'dark',
  );
  await picture('attach', '/servers', async (page) => {
    await button(page, 'Attach a tool server').click();
    await page.getByLabel('Server settings').fill(SETTINGS);
    await page.waitForTimeout(1500);
  });
  await picture('server', '/servers/trails', async (page) => {
    await button(page, 'Try trail_report').click();
    await page.getByLabel('Trail', { exact: true }).waitFor();
    await button(page, /Select|values/i)
      .last()
      .click();
  });
  await api.attachServer({ body: { name: 'faulty', url: faulty.url } });
  await picture('changes', '/servers/faulty', async (page) => {
    await page.getByText('ready', { exact: true }).waitFor();
    faulty.turn('orders');
    await page.getByRole('button', { name: /Changes \(1 on hold\)/ }).click();
    await page.getByText('The text instructs the model').waitFor();
  });
  await api.removeServer({ name: 'faulty', query: { force: 'true' } });
  await picture('chat', '/flows/warden-desk/chat', async (page) => {
    await page.getByLabel('Message').fill(`Reserve bunks for 10 people in larch on ${day(3)}.`);
    await page.keyboard.press('Enter');
    await button(page, 'Approve').first().waitFor();
  });
  await picture('grid', '/tables/bookings', async (page) => {
    await page.getByRole('gridcell').nth(1).click();
  });
  await picture('asked', '/approvals');
  await picture(
    'memory',
    '/memory',
    async (page) => {
      await page.getByRole('row').nth(1).getByRole('button').first().click();
      const dialog = page.getByRole('dialog');
      await dialog.getByLabel('Topic').fill('usual hut');
      await dialog.getByLabel('Fact').fill('larch, four bunks near the door');
      await button(dialog, 'Add note').click();
      await dialog.getByText('near the door').first().waitFor();
    },
    'dark',
  );
  await picture('endpoint', '/endpoints/huts', async (page) => {
    await button(page, /^Description and arguments of reserve_bunks/).click();
  });
  await picture('connect', '/endpoints/huts?view=connect', async (page) => {
    await page.getByLabel('Key in the settings').fill('pindro_mistyped');
    await button(page, 'Test the connection').click();
    await page.getByText('A client cannot connect.').waitFor();
    await page.getByText('A client cannot connect.').scrollIntoViewIfNeeded();
  });
  const [failed] = (await api.listRuns({ query: { flow: 'send-load', state: 'failed' } })).items;
  await picture('run', `/runs/${failed.id}`);
  const [done] = (await api.listRuns({ query: { flow: 'send-load', state: 'done' } })).items;
  await picture('compare', `/runs/${failed.id}/compare?other=${done.id}`);
  await picture('problem', '/problems', async (page) => {
    await page.getByRole('row').nth(1).getByRole('link').first().click();
    await page.getByRole('heading', { name: /Problem in/ }).waitFor();
  });
} finally {
  await window.close();
  await faulty.close();
  demo.kill('SIGTERM');
  rmSync(data, { recursive: true, force: true, maxRetries: 10, retryDelay: 200 });
}

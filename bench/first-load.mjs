/*
 * What a browser has to load before the console can be used, and how long that takes: the first page, and the editor of a
 * flow on top of it, in headless Chromium with an empty cache.
 */
import { chromium } from 'playwright-core';
import { createClient } from '../packages/contract/dist/index.js';
import { chromium as findChromium } from '../scripts/chromium.mjs';
import { withService } from './service.mjs';

const KIB = 1024;
const FIRST = 150;
const EDITOR = 250;
/** Milliseconds until the first page can be used, on a machine of two cores; what a person takes for at once. */
const READY = 1000;

/** Opens pages with an empty cache each time. @returns what each round found: bytes of files over the wire, and times */
async function load({ url, apiKey, ready: { signIn } }, rounds = 1) {
  const document = 'format: pindro/flow@1\nname: small\nsteps:\n  a: { kind: text, with: { text: hello } }\n';
  await createClient({ url, key: apiKey }).importFlow({ body: { document } });
  const browser = await chromium.launch({ executablePath: findChromium(), args: ['--no-sandbox', '--disable-gpu'] });
  try {
    const context = await browser.newContext();
    await (await context.newPage()).goto(signIn);
    const storageState = await context.storageState();
    await context.close();
    const found = [];
    for (let round = 0; round < rounds; round++) found.push(await visit(browser, storageState, url));
    return found;
  } finally {
    await browser.close();
  }
}

async function visit(browser, storageState, url) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, storageState });
  const page = await context.newPage();
  const wire = await context.newCDPSession(page);
  await wire.send('Network.enable');
  let bytes = 0;
  const files = new Set();
  wire.on('Network.responseReceived', ({ requestId, response }) => {
    if (!new URL(response.url).pathname.startsWith('/api/')) files.add(requestId);
  });
  wire.on('Network.loadingFinished', ({ requestId, encodedDataLength }) => {
    if (files.has(requestId)) bytes += encodedDataLength;
  });
  const flows = page.getByRole('link', { name: 'Flows', exact: true });
  const begun = Date.now();
  await page.goto(`${url}/`);
  await page.getByRole('heading', { name: 'Overview' }).waitFor();
  await flows.waitFor();
  const ready = Date.now() - begun;
  await page.waitForTimeout(800);
  const first = bytes;
  await flows.click();
  const small = page.getByRole('link', { name: 'small' });
  await small.waitFor();
  await page.waitForTimeout(500);
  const before = bytes;
  const opened = Date.now();
  await small.click();
  await page.locator('.svelte-flow__node').first().waitFor();
  const drawn = Date.now() - opened;
  await page.waitForTimeout(800);
  await context.close();
  return { first, editor: bytes - before, ready, drawn };
}

const result = (name, ours, bar, unit) => ({ name, ours, reference: bar, unit, ratio: bar / Math.max(1, ours) });

/** Compressed bytes of the first page, with its fonts. */
export const firstLoad = (say) =>
  withService(async (service) => {
    const [{ first, ready }] = await load(service);
    say(`${Math.round(first / KIB)} KiB; it could be used after ${ready} ms`);
    return result('first-load', Math.round(first / KIB), FIRST, 'KiB');
  });

/** Compressed bytes of the editor on top of it. */
export const editorLoad = (say) =>
  withService(async (service) => {
    const [{ editor, drawn }] = await load(service);
    say(`${Math.round(editor / KIB)} KiB; the first card was there after ${drawn} ms`);
    return result('editor-load', Math.round(editor / KIB), EDITOR, 'KiB');
  });

/** How long until the first page can be used. */
export const interactive = (say) =>
  withService(async (service) => {
    const times = (await load(service, 3)).map(({ ready }) => ready);
    const ours = times.sort((a, b) => a - b)[1];
    say(`${times.join(', ')} ms`);
    return result('interactive', ours, READY, 'ms');
  });

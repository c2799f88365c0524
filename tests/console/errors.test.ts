import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { createClient } from '@pindro/contract';
import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { openBrowser } from '../support/browser.js';
import { Builder } from '../support/builder.js';
import { type Running, startReady } from '../support/process.js';
import { discard, temporary } from '../support/workspace.js';

interface Ready {
  url: string;
  apiKey: string;
  signIn: string;
}

describe('what goes wrong under an open console', function () {
  this.timeout(120_000);
  const data = join(temporary(), 'workspace');
  let served: Running<Ready>;
  let browser: Browser;
  let page: Page;
  const serve = (port: string) => startReady<Ready>(['serve', '--json', '--port', port, '--data', data]);
  const api = () => createClient({ url: served.contract.url, key: served.contract.apiKey });

  before(async () => {
    served = await serve('0');
    browser = await openBrowser();
    page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    page.setDefaultTimeout(15_000);
    await page.goto(served.contract.signIn);
  });
  after(async () => {
    await browser.close();
    await served.stop();
    discard(join(data, '..'));
  });

  it('a service killed and started again loses nothing that was typed meanwhile, and the page says so', async () => {
    const steps = { a: { kind: 'text', with: { text: 'before' } } };
    await api().importFlow({ body: { document: { format: 'pindro/flow@1', name: 'small', steps } } });
    const build = new Builder(page, served.contract.url);
    await build.open('small');
    await build.select('a');
    await served.stop('SIGKILL');
    await build.fill('Text', 'typed into nothing');
    await page.getByText('Not saved: the service is unavailable').waitFor();
    served = await serve(new URL(served.contract.url).port);
    await build.saved();
    const { document } = await api().getFlow({ name: 'small' });
    expect(document).to.have.nested.property('steps.a.with.text', 'typed into nothing');
  });

  it('a value of megabytes does not reach the page before it is asked for', async () => {
    const pages = Array.from({ length: 600 }, (_, n) => ({
      n,
      words: 'gas, flour and wood, '.repeat(250),
    }));
    const server = createServer((_, answer) =>
      answer.setHeader('content-type', 'application/json').end(JSON.stringify({ pages })),
    );
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
    const steps = { book: { kind: 'http', with: { method: 'GET', url } } };
    await api().importFlow({
      body: { document: { format: 'pindro/flow@1', name: 'large', steps, result: '${ steps.book.body }' } },
    });
    const { run } = await api().runFlow({ name: 'large', body: {} });
    let received = 0;
    page.on('response', async (response) => {
      if (response.url().includes('/api/')) received += (await response.body().catch(() => '')).length;
    });
    await page.goto(`${served.contract.url}/runs/${run}`);
    await page
      .getByText(/^\d,\d{3},\d{3} characters of JSON/)
      .first()
      .waitFor();
    expect(received).to.be.greaterThan(0).and.lessThan(300_000);
    await page.getByRole('button', { name: 'Load in full' }).first().click();
    const whole = page.getByRole('textbox', { name: /, in full$/ }).first();
    await whole.waitFor();
    expect((await whole.inputValue()).length).to.be.greaterThan(2_000_000);
    server.close();
  });
});

import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { createClient } from '@pindro/contract';
import { DIAGNOSIS_RULES, deepest, type Finding } from '@pindro/core';
import { expect } from 'chai';
import type { Browser, Locator, Page } from 'playwright-core';
import { expectAccessible, openBrowser } from '../support/browser.js';
import { type DemoContract, pindro, type Running, startBrokenDemo } from '../support/process.js';
import { retryOptions } from '../support/retry.js';
import { discard, temporary, until } from '../support/workspace.js';

/** What stands on top of a run whose finding can be cured from there, by what was broken. */
const CURED: Record<string, RegExp> = {
  'a misspelled field': /"input\.guest\.nmae" has no value; did you mean "name"\?/,
  'a tool by a name that its server does not have': /has no tool "godo"; it has "good"/,
  'an argument under a name that the tool does not have': /has no argument "stepz"; it has "steps"/,
  'a server that speaks only the older transport since it was attached': /of tool server "valve" is not a tool server/,
  'a key that was pasted with its quotation marks': /it is in quotation marks/,
  'no key at all, where one is there that is meant for it': /"lift-bare" requires a credential, and none is sent/,
  'a key that goes along as a bearer key, where a header of its own is wanted':
    /expects it in the header X-Wholesale-Key/,
  'a model by a name that is not served': /"misnamed" does not know this model name; it has "house"/,
  'one round, where two are needed': /used its one round/,
  'a live flow that calls one which never was': /"weigh" has no published revision/,
};

describe('a run for each finding, made by breaking something', function () {
  this.timeout(180_000);
  let data: string;
  let demo: Running<DemoContract>;
  let browser: Browser;
  let page: Page;
  before(async () => {
    data = temporary();
    [demo, browser] = await Promise.all([startBrokenDemo(data), openBrowser()]);
    page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(demo.contract.signIn);
  });
  after(async () => {
    await browser.close();
    await demo.stop();
    discard(data);
  });
  const api = () => createClient({ url: demo.contract.url, key: demo.contract.apiKey });
  const brokenBy = (about: string) => demo.contract.broken.find((one) => one.about === about)!;
  const isThere: Record<string, (name: string) => Promise<unknown>> = {
    server: (name) => api().getServer({ name }),
    model: (name) => api().getModel({ name }),
    endpoint: (name) => api().getEndpoint({ name }),
    credential: (name) => api().getCredential({ name }),
    table: (name) => api().getTable({ name }),
  };

  it('has one for every rule, on top of its run, with a place that is there', async () => {
    const { broken } = demo.contract;
    expect([...new Set(broken.map(({ code }) => code))]).to.have.members(DIAGNOSIS_RULES.map(({ code }) => code));
    for (const { code, about, run } of broken) {
      const { findings } = await api().getRun({ id: run });
      const [first] = findings as Finding[];
      expect(first?.code, about).to.equal(code);
      expect(first!.title.length, about).to.be.within(10, 220);
      expect(first!.fix, about).to.not.equal('');
      const { place } = first!;
      if (!place) continue;
      if ('flow' in place) {
        const { document } = await api().getFlow({ name: place.flow });
        expect(deepest(document, place.at), about).to.equal(place.at);
      } else for (const [what, name] of Object.entries(place)) await isThere[what]!(name);
    }
  });

  it('offers no button that accepts a description that is held back', async () => {
    const { run } = brokenBy('a tool that its server described anew after it was chosen');
    const [first] = (await api().getRun({ id: run })).findings as Finding[];
    expect(first!.title).to.match(/"good" of "snow" is on hold/);
    expect(first!.cure).to.equal(null);
    expect(first!.place).to.deep.equal({ server: 'snow' });
  });

  it('tells no secret, and finds nothing in runs that are well', async () => {
    const { liftKey, wholesalerKey, keys } = JSON.parse(readFileSync(join(data, 'demo.json'), 'utf8'));
    const own = new Set(demo.contract.broken.map(({ run }) => run));
    const { items } = await api().listRuns({ query: { limit: 200 } });
    let well = 0;
    for (const { id, flow, labels, state } of items as {
      id: string;
      flow: string;
      labels?: string[];
      state: string;
    }[]) {
      const run = await api().getRun({ id });
      const text = JSON.stringify(run.findings);
      for (const secret of [liftKey, wholesalerKey, keys[0].key]) expect(text).to.not.contain(secret);
      if (own.has(id) || state !== 'done' || labels?.includes('broken')) continue;
      if (!['reserve-bunks', 'bunk-availability', 'month-report', 'reserve-group'].includes(flow)) continue;
      expect(run.findings, flow).to.deep.equal([]);
      well++;
    }
    expect(well).to.be.greaterThan(3);
  });

  it('counts what was dealt with as waste, tells since which list of tools, and is a feed', async () => {
    const { items } = await api().listProblems({ query: { handled: 'true', limit: 200 } });
    const invented = items.find(({ code }) => code === 'tool_invented')!;
    expect(invented.waste.rounds).to.equal(2);
    expect(invented.waste.tokens).to.be.greaterThan(100);
    const open = (await api().listProblems({ query: { limit: 200 } })).items;
    expect(open.map(({ severity }) => severity)).to.not.include('warning');
    const stricter = open.find(({ code }) => code === 'argument_now_required')!;
    const { toolsChanged } = await api().getProblem({ id: stricter.id });
    expect(toolsChanged).to.deep.include({ server: 'pump', tools: ['slow'] });
    const shown = await pindro(['problem', 'list', '--handled'], {
      env: { PINDRO_URL: demo.contract.url, PINDRO_KEY: demo.contract.apiKey },
    });
    expect(shown.out).to.contain('teleport_party').and.contain('2 rounds');
    const feed = await fetch(`${demo.contract.url}/api/v1/problems/feed`, {
      headers: { Authorization: `Bearer ${demo.contract.apiKey}` },
    });
    expect(feed.headers.get('content-type')).to.contain('application/atom+xml');
    const read = await page.evaluate(
      (text) => {
        const { documentElement } = new DOMParser().parseFromString(text, 'text/xml');
        return [documentElement.namespaceURI, documentElement.querySelectorAll('entry').length];
      },
      await feed.text(),
    );
    expect(read).to.deep.equal(['http://www.w3.org/2005/Atom', Math.min(50, open.length)]);
  });

  for (const [about, line] of Object.entries(CURED))
    it(`${about}: looked at, changed, and well when it is run again`, async () => {
      const { run, code } = brokenBy(about);
      await page.goto(`${demo.contract.url}/runs/${run}`);
      const finding = page.getByRole('region', { name: line });
      await finding.getByRole('button', { name: 'Apply fix' }).click();
      await finding.getByText('Applied.', { exact: true }).waitFor();
      await finding.getByRole('button', { name: /^(Publish and retry|Retry with the fix)$/ }).click();
      await page.waitForURL((url) => url.pathname.startsWith('/runs/') && !url.pathname.endsWith(run));
      const again = page.url().split('/').at(-1)!;
      await until(async () => (await api().getRun({ id: again })).endedAt !== null, 'the end of the run');
      const { state, error } = await api().getRun({ id: again });
      expect(state, error?.message).to.equal('done');
      const { fingerprint } = (await api().getRun({ id: run })).findings.find((one) => one.code === code) as Finding;
      expect(await api().getProblem({ id: fingerprint })).to.include({ state: 'resolved' });
    });

  it('shows what went over the wire where it failed, and of all where it is run again like that', async () => {
    const { run } = brokenBy('an order with a quantity that is a word');
    await page.goto(`${demo.contract.url}/runs/${run}`);
    const step = page.getByRole('region', { name: 'step order' });
    await step.getByText('Request and response: 1 request').click();
    await step.getByText('Response with status 422').waitFor();
    await step.getByText('Headers', { exact: true }).first().click();
    expect(await step.innerText()).to.contain('x-wholesale-key: •••');
    await expectAccessible(page, 'what went over the wire');
    const well = brokenBy('a misspelled field').run;
    expect((await api().getRun({ id: well })).spans.some((one) => 'pindro.exchanged' in one.attributes)).to.equal(
      false,
    );
    await retryOptions(page, () => page.getByRole('checkbox', { name: 'capture exchanges' }).check());
    await page.getByRole('button', { name: 'Retry', exact: true }).click();
    await page.waitForURL((url) => url.pathname.startsWith('/runs/') && !url.pathname.endsWith(run));
    await page.getByRole('region', { name: 'step order' }).getByText('Request and response: 1 request').waitFor();
  });

  it('is done again differently: another input, another value of a step, another answer of a tool', async () => {
    const { run } = brokenBy('an order with a quantity that is a word');
    const differently = async (from: string, change: (window: Locator) => Promise<void>) => {
      await page.goto(`${demo.contract.url}/runs/${from}`);
      await retryOptions(page, () => page.getByRole('button', { name: 'With changes …' }).click());
      const window = page.getByRole('dialog', { name: 'Rerun with changes' });
      const go = window.getByRole('button', { name: 'Run with changes' });
      expect(await go.isDisabled(), 'nothing is another yet').to.equal(true);
      await change(window);
      await expectAccessible(page, 'running differently');
      await go.click();
      return window;
    };
    const arrived = async () => {
      await page.waitForURL((url) => url.pathname.startsWith('/runs/') && !url.pathname.endsWith(run));
      const id = page.url().split('/').at(-1)!;
      await until(async () => (await api().getRun({ id })).endedAt !== null, 'the end of the run');
      return api().getRun({ id });
    };
    await differently(run, (window) => window.getByLabel('day').fill('2027-02-13'));
    expect(await arrived()).to.include({ state: 'done' });

    const chooseFrom = (step: string) => retryOptions(page, () => page.getByLabel('Start from').selectOption(step));
    await page.goto(`${demo.contract.url}/runs/${run}`);
    await chooseFrom('order');
    await retryOptions(page, () => page.getByRole('button', { name: 'With changes …' }).click());
    const window = page.getByRole('dialog', { name: 'Rerun with changes' });
    await window.getByLabel('day').last().fill('2027-02-14');
    await window.getByRole('button', { name: 'Run with changes' }).click();
    // An order makes a difference: it is asked for once more.
    await window.getByRole('button', { name: 'Repeat side effects' }).click();
    const ordered = await arrived();
    expect(ordered.state, JSON.stringify(ordered.error)).to.equal('done');
    const step = ordered.spans.find(({ name }) => name === 'order')!;
    expect(step.input).to.have.nested.property('json.day', '2027-02-14');
    expect((await api().getFlow({ name: ordered.flow })).text).to.not.contain('2027-02-14');

    const muddled = brokenBy('a model that lists loads where it should schedule one').run;
    await page.goto(`${demo.contract.url}/runs/${muddled}`);
    await chooseFrom('desk');
    await retryOptions(page, () => page.getByRole('button', { name: 'With changes …' }).click());
    await window.getByLabel('Load', { exact: true }).fill('L-7777');
    await window.getByRole('button', { name: 'Run with changes' }).click();
    await page.waitForURL((url) => url.pathname.startsWith('/runs/') && !url.pathname.endsWith(muddled));
    const told = await arrived();
    expect(String(told.result), JSON.stringify(told.error)).to.contain('L-7777');
  });

  it('is read by everybody', async () => {
    await page.goto(`${demo.contract.url}/problems`);
    await page.getByRole('heading', { level: 1 }).waitFor();
    await expectAccessible(page, 'many problems');
  });
});

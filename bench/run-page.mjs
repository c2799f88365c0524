/* How long a run of five thousand spans takes to be there in the console, from the address to rows one can click. */
import { chromium } from 'playwright-core';
import { createClient } from '../packages/contract/dist/index.js';
import { chromium as findChromium } from '../scripts/chromium.mjs';
import { withService } from './service.mjs';

/** Of a loop the record holds the spans of some turns; many loops make many spans. */
const LOOPS = 62;
const loop = (index) => `  all${index}:
    kind: each
    with:
      list: "\${ input.list }"
      at_once: 4
      steps:
        one: { kind: shape, with: { value: "\${ item * 2 }" } }
        two: { kind: shape, after: [one], with: { value: "\${ steps.one.value + 1 }" } }
        say: { kind: text, after: [two], with: { text: "load \${ steps.two.value } of ${index}" } }`;
const FLOW = `format: pindro/flow@1
name: many
input: { type: object, properties: { list: { type: array } } }
steps:
${Array.from({ length: LOOPS }, (_, index) => loop(index)).join('\n')}
`;
const BAR = 1000;

export const run5000 = (say) =>
  withService(async ({ url, apiKey, ready: { signIn } }) => {
    const api = createClient({ url, key: apiKey });
    await api.importFlow({ body: { document: FLOW } });
    const list = Array.from({ length: 20 }, (_, index) => index);
    const { run } = await api.runFlow({ name: 'many', body: { input: { list } } });
    const spans = (await api.getRun({ id: run })).spans.length;
    const browser = await chromium.launch({ executablePath: findChromium(), args: ['--no-sandbox', '--disable-gpu'] });
    try {
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
      await page.goto(signIn);
      const times = [];
      for (let turn = 0; turn < 5; turn++) {
        await page.goto(`${url}/runs`);
        await page.getByRole('heading', { level: 1 }).waitFor();
        const begun = performance.now();
        await page.goto(`${url}/runs/${run}`);
        await page.getByRole('button', { name: /^step all0/ }).waitFor();
        times.push(performance.now() - begun);
        const folded = await page.locator('.trace-row').count();
        if (turn === 0) say(`${spans} spans, ${folded} rows are drawn`);
      }
      const ours = Math.round(times.sort((a, b) => a - b)[2]);
      const search = performance.now();
      await page.getByLabel('Search spans').fill('of 61');
      await page.getByText(/matching$/).waitFor();
      say(`there after ${ours} ms, its words searched in ${Math.round(performance.now() - search)} ms`);
      return { name: 'run-5000', ours, reference: BAR, unit: 'ms', ratio: BAR / ours };
    } finally {
      await browser.close();
    }
  });

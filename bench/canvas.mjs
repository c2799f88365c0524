/* Frame times of the canvas with 300 steps, while it is panned and a card is dragged, in headless Chromium. */
import { chromium } from 'playwright-core';
import { createClient } from '../packages/contract/dist/index.js';
import { chromium as findChromium } from '../scripts/chromium.mjs';
import { withService } from './service.mjs';

const STEPS = 300;

export const canvas300 = (say) =>
  withService(async ({ url, apiKey, ready: { signIn } }) => {
    const steps = Array.from(
      { length: STEPS },
      (_, i) => `  s${i}: { kind: text, ${i > 2 ? `after: [s${i - 3}], ` : ''}with: { text: "Step ${i} of many" } }`,
    );
    await createClient({ url, key: apiKey }).importFlow({
      body: { document: `format: pindro/flow@1\nname: large\nsteps:\n${steps.join('\n')}\n` },
    });
    const browser = await chromium.launch({ executablePath: findChromium(), args: ['--no-sandbox', '--disable-gpu'] });
    try {
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
      await page.goto(signIn);
      await page.goto(`${url}/flows/large`);
      await page.locator('.svelte-flow__node').first().waitFor();
      await page.waitForTimeout(1500);
      await page.evaluate(() => {
        globalThis.frames_ = [];
        let last = performance.now();
        const tick = (now) => {
          globalThis.frames_.push(now - last);
          last = now;
          requestAnimationFrame(tick);
        };
        requestAnimationFrame(tick);
      });
      const box = await page.locator('.svelte-flow').boundingBox();
      const [x, y] = [box.x + box.width - 40, box.y + box.height / 2];
      await page.mouse.move(x, y);
      await page.mouse.down();
      for (let i = 0; i < 60; i++) await page.mouse.move(x - i * 3, y - Math.sin(i / 6) * 80);
      await page.mouse.up();
      const card = await page.locator('.svelte-flow__node').first().boundingBox();
      await page.mouse.move(card.x + 10, card.y + 4);
      await page.mouse.down();
      for (let i = 0; i < 60; i++) await page.mouse.move(card.x + 10 + i * 2, card.y + 4 + i);
      await page.mouse.up();
      const frames = (await page.evaluate(() => globalThis.frames_)).toSorted((a, b) => a - b);
      const ours = Math.round(frames[Math.floor(frames.length * 0.95)]);
      say(
        `${frames.length} frames, half within ${frames[Math.floor(frames.length / 2)].toFixed(1)} ms, longest ${frames.at(-1).toFixed(0)} ms`,
      );
      return { name: 'canvas-300', ours, reference: 33, unit: 'ms', ratio: 33 / Math.max(1, ours) };
    } finally {
      await browser.close();
    }
  });

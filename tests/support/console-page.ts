import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { openBrowser } from './browser.js';
import { type Workspace, workspace } from './workspace.js';

const CONSOLE = new URL('../../../packages/console/dist', import.meta.url).pathname;

export interface ConsolePage {
  house: Workspace;
  page: Page;
  browser: Browser;
  open(path: string): Promise<void>;
  /** Fails where the browser has told an error since it was last asked; a failed test is photographed where SHOT says. */
  calm(failed: boolean): Promise<void>;
  close(): Promise<void>;
}

/** An empty workspace with its console, opened in a browser and signed in. */
export async function consolePage(): Promise<ConsolePage> {
  const house = await workspace({ console: CONSOLE });
  const browser = await openBrowser();
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true });
  const page = await context.newPage();
  const faults: string[] = [];
  page.setDefaultTimeout(15_000);
  page.on('pageerror', (error) => faults.push(error.message));
  await page.goto(house.service.createSignInLink());
  return {
    ...{ house, page, browser },
    open: async (path) => {
      await page.goto(house.service.url + path);
      await page.getByRole('heading', { level: 1 }).waitFor();
    },
    calm: async (failed) => {
      if (failed && process.env.SHOT) await page.screenshot({ path: process.env.SHOT });
      expect(faults.splice(0), 'errors in the browser').to.deep.equal([]);
    },
    close: async () => {
      await browser.close();
      await house.close();
    },
  };
}

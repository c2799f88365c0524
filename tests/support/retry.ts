import type { Page } from 'playwright-core';

/** Opens the options of a retry on the page of a run, sets them, and closes them again unless that was done. */
export async function retryOptions(page: Page, set: (page: Page) => Promise<unknown>): Promise<void> {
  const trigger = page.getByRole('button', { name: /^Retry options/ });
  await trigger.click();
  const options = page.getByRole('dialog', { name: 'Retry options' });
  await options.waitFor();
  await set(page);
  if (!(await options.isVisible())) return;
  await page.keyboard.press('Escape');
  await options.waitFor({ state: 'hidden' });
}

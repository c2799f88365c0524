import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { expect } from 'chai';
import { type Browser, chromium, type Page } from 'playwright-core';

const AXE = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

export function openBrowser(): Promise<Browser> {
  return chromium.launch({
    executablePath: process.env.CHROMIUM!,
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
    ],
  });
}

interface Violation {
  id: string;
  nodes: { target: string[]; failureSummary: string }[];
}

/** Nothing may be wrong with a page for whoever cannot see or use a mouse. */
export async function expectAccessible(page: Page, what: string): Promise<void> {
  // The content security policy of the page forbids scripts from elsewhere; evaluating one is the debugger's right.
  await page.evaluate(AXE);
  const violations = (await page.evaluate(
    'axe.run(document, { runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "best-practice"] }).then((result) => result.violations)',
  )) as Violation[];
  expect(
    violations.map(({ id, nodes }) => `${id}: ${nodes[0]!.target.join(' ')} ${nodes[0]!.failureSummary}`),
    what,
  ).to.deep.equal([]);
}

const NAMED =
  /^\s*- (button|textbox|combobox|checkbox|spinbutton|switch|radio|menuitem|searchbox|tab)\b(?: "((?:[^"\\]|\\.)*)")?/;

/** Expects every control to have a name that no other control of its role has, so that screen readers tell them apart. */
export async function expectDistinctNames(page: Page, what: string): Promise<void> {
  const controls = (await page.locator('body').ariaSnapshot()).split('\n').flatMap((line) => {
    const [, role, name = ''] = NAMED.exec(line) ?? [];
    return role ? [`${role} "${name}"`] : [];
  });
  const repeated = controls.filter((one, index) => controls.indexOf(one) !== index);
  const unnamed = controls.filter((one) => one.endsWith(' ""'));
  expect([...new Set([...repeated, ...unnamed])], what).to.deep.equal([]);
}

import type { Locator, Page } from 'playwright-core';
import { until } from './workspace.js';

/** Drives the editor the way a person does: by what is written on it, without YAML or JSON. */
export class Builder {
  constructor(
    readonly page: Page,
    private readonly url: string,
  ) {}

  get aside(): Locator {
    return this.page.getByRole('complementary', { name: 'Selection' });
  }
  node(name: string): Locator {
    return this.page.locator(`.svelte-flow__node[data-id="${name}"]`);
  }

  async make(title: string, starter?: string): Promise<void> {
    await this.page.goto(`${this.url}/flows`);
    await this.page.getByRole('button', { name: 'New flow' }).click();
    await this.page.getByLabel('Title').fill(title);
    if (starter) await this.page.getByLabel(starter).check();
    await this.page.getByRole('button', { name: 'Create' }).click();
    await this.page.getByRole('heading', { level: 1, name: title }).waitFor();
  }
  async open(name: string): Promise<void> {
    await this.page.goto(`${this.url}/flows/${name}`);
    await this.page.getByRole('button', { name: 'Add a step', exact: true }).waitFor();
  }

  /** Adds a step after the selected one and gives it a name. */
  async add(search: string, name: string): Promise<void> {
    await this.page.getByRole('button', { name: 'Add a step', exact: true }).click();
    await this.page.getByRole('combobox', { name: 'Search step kinds' }).fill(search);
    await this.page.keyboard.press('Enter');
    const field = this.aside.getByLabel('Name of the step');
    await field.fill(name);
    await field.press('Enter');
    await this.node(name).waitFor();
    await until(async () => (await field.inputValue()) === name, `${name} to be shown`);
  }

  async select(name: string): Promise<void> {
    await this.node(name).locator('h3').click();
    await until(
      async () => (await this.aside.getByLabel('Name of the step').inputValue()) === name,
      `${name} to be selected`,
    );
  }

  field(label: string, within: Locator = this.aside): Locator {
    return within
      .getByLabel(label, { exact: true })
      .or(within.getByLabel(`${label} (optional)`, { exact: true }))
      .first();
  }
  group(legend: string, within: Locator = this.aside): Locator {
    const name = new RegExp(`^${legend}( \\(optional\\))?$`);
    return within.getByRole('group', { name }).first();
  }
  async fill(label: string, value: string, within?: Locator): Promise<void> {
    await this.field(label, within).fill(value);
    await this.page.keyboard.press('Escape');
  }
  async choose(label: string, value: string, within?: Locator): Promise<void> {
    await this.field(label, within).selectOption(value);
  }
  async check(label: string, on = true, within?: Locator): Promise<void> {
    await this.field(label, within).setChecked(on);
  }
  /** Brings a field out that was folded away. */
  async unfold(label: string, within: Locator = this.aside): Promise<void> {
    const more = within.locator('details').filter({ has: this.page.getByText(/^More: /) });
    const one = more.filter({ hasText: label }).last();
    if (!(await one.evaluate((node) => (node as HTMLDetailsElement).open)))
      await one.locator('summary').click({ position: { x: 20, y: 8 } });
    await one.getByRole('button', { name: new RegExp(`^${label}`) }).click();
  }
  /** Brings a group out that may be left out. */
  async begin(legend: string, within?: Locator): Promise<Locator> {
    const group = this.group(legend, within);
    await group.getByRole('button', { name: `Add ${legend}`, exact: true }).click();
    return group;
  }
  /** Fills names and values; names that are offered are pressed, others typed. */
  async pairs(legend: string, values: Record<string, string>, within?: Locator): Promise<void> {
    const group = this.group(legend, within);
    for (const [name, value] of Object.entries(values)) {
      const offered = group.getByRole('button', { name: `Add ${name}`, exact: true });
      const known = group.getByLabel(name, { exact: true });
      await offered
        .or(known)
        .or(group.getByLabel(`New name in ${legend}`))
        .first()
        .waitFor();
      if (await offered.isVisible()) await offered.click();
      else if (!(await known.isVisible())) {
        await group.getByLabel(`New name in ${legend}`).fill(name);
        await group.getByLabel(`New name in ${legend}`).press('Enter');
      }
      await this.fill(name, value, group);
    }
  }
  /** Adds conditions: a column with a comparison and a value. */
  async conditions(legend: string, list: [string, string, string][], within?: Locator): Promise<void> {
    const group = this.group(legend, within);
    for (const [column, comparison, value] of list) {
      const at = (await group.getByLabel(new RegExp(`^Column of ${legend} \\d+$`)).count()) + 1;
      await group.getByRole('button', { name: `Add a condition to ${legend}` }).click();
      await group.getByLabel(`Column of ${legend} ${at}`).fill(column);
      await group.getByLabel(`Column of ${legend} ${at}`).press('Tab');
      await group.getByLabel(`Comparison of ${legend} ${at}`).selectOption({ label: comparison });
      await this.fill(`Value for ${column}`, value, group);
    }
  }

  async input(name: string, change: { type?: string; about?: string } = {}): Promise<void> {
    await this.aside.getByRole('tab', { name: 'Flow' }).click();
    await this.aside.getByLabel('Name of a new input').fill(name);
    await this.aside.getByLabel('Name of a new input').press('Enter');
    const item = this.aside
      .getByRole('listitem')
      .filter({ has: this.page.getByRole('button', { name: `Remove input ${name}` }) });
    if (change.about) await item.getByLabel('Description of ').fill(change.about);
    if (change.type) await item.getByLabel('Type').selectOption(change.type);
  }
  async result(value: string): Promise<void> {
    await this.aside.getByRole('tab', { name: 'Flow' }).click();
    await this.fill('Result', value);
  }
  /** Lets the selected step come after another one, or after a branch of it. */
  async after(link: string): Promise<void> {
    await this.aside.getByLabel('Add a predecessor').selectOption(link);
    await this.aside.getByRole('button', { name: 'Add', exact: true }).last().click();
  }

  async saved(): Promise<void> {
    await this.page
      .getByRole('status')
      .filter({ hasText: /^Saved$/ })
      .waitFor();
  }
  async run(inputs: Record<string, string>): Promise<void> {
    await this.aside.getByRole('tab', { name: 'Try' }).click();
    for (const [name, value] of Object.entries(inputs)) {
      const label = name.charAt(0).toUpperCase() + name.slice(1);
      const field = this.field(label);
      const folded = this.aside.locator('summary').filter({ hasText: label });
      await field.or(folded).first().waitFor();
      if (!(await field.isVisible())) await this.unfold(label);
      if ((await field.evaluate((node) => node.tagName)) === 'SELECT') await field.selectOption(value);
      else await field.fill(value);
    }
    await this.aside.getByRole('button', { name: 'Run', exact: true }).click();
  }
}

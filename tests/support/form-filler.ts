import type { Locator } from 'playwright-core';
import type { Builder } from './builder.js';

type Json = null | boolean | number | string | Json[] | { [key: string]: Json };
type Schema = { [key: string]: Json };
type Fields = { [key: string]: Json };

/** What the console itself knows of schemas, so that the filler reads them as the form does. */
export interface FormKnowledge {
  shapeOf(schema: Schema): { sort: string; [key: string]: unknown };
  wayOf(ways: Schema[], value: Json): number;
  fieldsOf(schema: Schema, value: Fields): { name: string; schema: Schema; required: boolean; common: boolean }[];
  labelOf(name: string, schema: Schema): string;
  readCondition(column: string, written: Json): { comparison: string; value: Json };
  comparisons: readonly { word: string; says: string }[];
}

/** Fills a form until it says a given document, by its labels alone. */
export class FormFiller {
  constructor(
    private readonly build: Builder,
    private readonly known: FormKnowledge,
  ) {}

  /** Fills the fields of an object, in the order of the document. */
  async fields(schema: Schema, wanted: Fields, within: Locator): Promise<void> {
    for (const [name, value] of Object.entries(wanted)) {
      const field = this.known.fieldsOf(schema, wanted).find((one) => one.name === name);
      if (!field) throw new Error(`the form has no field for "${name}"`);
      const label = this.known.labelOf(name, field.schema);
      const shown = await this.isShown(label, within);
      if (!shown && !field.required && !field.common) await this.build.unfold(label, within);
      await this.field(label, field.schema, value, within);
    }
  }

  /** Flows in a toolbox, each with what is set for it. */
  private async toolbox(label: string, schema: Schema, rows: Fields[], within: Locator): Promise<void> {
    await this.build.group(label, within).getByRole('button', { name: 'Choose tools' }).click();
    const box = this.build.page.getByRole('dialog');
    const ways = ((schema.items as Schema).anyOf as Schema[]).map((way) => way.properties as Schema);
    for (const { flow, ...settings } of rows) {
      await box.getByLabel('Find tools').fill(String(flow));
      await box.getByRole('checkbox', { name: new RegExp(`^${String(flow)} flow`) }).check();
      await box.getByRole('button', { name: `Configure ${String(flow)}` }).click();
      const { flow: _, ...properties } = ways.find((way) => 'flow' in way)!;
      await this.fields({ type: 'object', properties }, settings, box);
    }
    await box.getByRole('button', { name: 'Close' }).click();
  }

  private async isShown(label: string, within: Locator): Promise<boolean> {
    const field = this.build.field(label, within).or(this.build.group(label, within));
    return field.first().isVisible();
  }

  async field(label: string, schema: Schema, value: Json, within: Locator): Promise<void> {
    const { build } = this;
    const shape = this.known.shapeOf(schema);
    const isText = typeof value === 'string' && value.includes('${');
    if (isText && !['text', 'scalar', 'number', 'condition', 'any'].includes(shape.sort)) {
      await within.getByLabel(`Supplied by ${label}`, { exact: true }).first().selectOption('expression');
      return build.fill(label, value, within);
    }
    switch (shape.sort) {
      case 'text':
      case 'scalar':
      case 'number':
      case 'condition':
        return build.fill(label, String(value), within);
      case 'choice':
        return build.choose(label, String(value), within);
      case 'reference':
        await build.field(label, within).locator(`option[value="${value}"]`).waitFor({ state: 'attached' });
        return build.choose(label, String(value), within);
      case 'yes-no':
        return build.check(label, value === true, within);
      case 'duration': {
        const [, amount = '', unit = ''] = /^([\d.]+)(\w+)$/.exec(String(value)) ?? [];
        await build.field(label, within).fill(amount);
        await within.getByLabel(`Unit of ${label}`, { exact: true }).selectOption(unit);
        return;
      }
      case 'group': {
        const group = build.group(label, within);
        const add = group.getByRole('button', { name: `Add ${label}`, exact: true });
        if (await add.isVisible()) await add.click();
        return this.fields(schema, value as Fields, group);
      }
      case 'list':
        return this.list(label, shape.item as Schema, value as Json[], within);
      case 'record':
        return this.record(label, shape.inner as Schema, value as Fields, within);
      case 'union': {
        const ways = shape.ways as Schema[];
        const at = this.known.wayOf(ways, value);
        const group = build.group(label, within);
        await group.getByLabel(`Type of ${label}`).first().selectOption(String(at));
        if (this.known.shapeOf(ways[at]!).sort === 'group') return this.fields(ways[at]!, value as Fields, group);
        return this.field(label, ways[at]!, value, group);
      }
      case 'conditions':
        return this.conditions(label, value as Fields, within);
      case 'alternatives': {
        const group = build.group(label, within);
        for (const [index, one] of (value as Fields[]).entries()) {
          await group.getByRole('button', { name: 'Add an alternative' }).click();
          await this.conditionsIn(`${label} ${index + 1}`, one, group);
        }
        return;
      }
      case 'branches':
        return this.branches(label, value as Fields, within);
      case 'given': {
        const group = this.build.group(label, within);
        const byHand = group.getByLabel(`New name in ${label}`, { exact: true });
        const named = (name: string) => this.build.field(name.charAt(0).toUpperCase() + name.slice(1), group);
        await byHand
          .or(named(Object.keys(value as Fields)[0]!))
          .first()
          .waitFor();
        if (await byHand.isVisible()) return this.record(label, {}, value as Fields, within);
        for (const [name, one] of Object.entries(value as Fields)) await named(name).fill(String(one));
        return;
      }
      case 'toolbox':
        return this.toolbox(label, schema, value as Fields[], within);
      case 'schema':
        return this.schema(label, value as Fields, within);
      case 'any':
        return this.any(label, value, within);
      default:
        throw new Error(`no way to fill "${label}", a ${shape.sort}`);
    }
  }

  private async list(label: string, item: Schema, values: Json[], within: Locator): Promise<void> {
    const group = this.build.group(label, within);
    const isLong = ['group', 'union', 'record', 'list'].includes(this.known.shapeOf(item).sort);
    for (const [index, value] of values.entries()) {
      await group
        .getByRole('button', { name: `Add to ${label}` })
        .last()
        .click();
      await this.field(isLong ? String(index + 1) : `${label} ${index + 1}`, item, value, group);
    }
  }

  private async record(label: string, inner: Schema, values: Fields, within: Locator): Promise<void> {
    const group = this.build.group(label, within);
    for (const [name, value] of Object.entries(values)) {
      const offered = group.getByRole('button', { name: `Add ${name}`, exact: true });
      const fresh = group.getByLabel(`New name in ${label}`, { exact: true });
      await offered.or(fresh).first().waitFor();
      if (await offered.isVisible()) await offered.click();
      else {
        await fresh.fill(name);
        await fresh.press('Enter');
      }
      await this.field(name, inner, value, group);
    }
  }

  private async conditions(label: string, where: Fields, within: Locator): Promise<void> {
    await this.conditionsIn(label, where, this.build.group(label, within));
  }
  private async conditionsIn(label: string, where: Fields, group: Locator): Promise<void> {
    let at = 0;
    for (const [column, written] of Object.entries(where)) {
      at++;
      const { comparison, value } = this.known.readCondition(column, written);
      await group.getByRole('button', { name: `Add a condition to ${label}`, exact: true }).click();
      await group.getByLabel(`Column of ${label} ${at}`, { exact: true }).fill(column);
      await group.getByLabel(`Column of ${label} ${at}`, { exact: true }).press('Tab');
      await group.getByLabel(`Comparison of ${label} ${at}`, { exact: true }).selectOption(comparison);
      if (Array.isArray(value)) await this.list(`Value for ${column}`, {}, value, group);
      else await this.build.fill(`Value for ${column}`, String(value), group);
    }
  }

  private async branches(label: string, ways: Fields, within: Locator): Promise<void> {
    const group = this.build.group(label, within);
    for (const [index, [name, when]] of Object.entries(ways).entries()) {
      if (index > 0) await group.getByRole('button', { name: 'Add a branch' }).click();
      const way = group.getByRole('listitem').nth(index);
      await way.getByLabel('Branch', { exact: true }).fill(name);
      await way.getByLabel('Branch', { exact: true }).press('Tab');
      await this.build.fill('Condition', String(when), way);
    }
  }

  private async schema(label: string, schema: Fields, within: Locator): Promise<void> {
    const group = this.build.group(label, within);
    for (const [name, inner] of Object.entries(schema.properties as Record<string, Fields>)) {
      await group.getByLabel('Name of a new field').fill(name);
      await group.getByLabel('Name of a new field').press('Enter');
      const item = group
        .getByRole('listitem')
        .filter({ has: this.build.page.getByRole('button', { name: `Remove field ${name}` }) });
      await item.getByLabel('Type').selectOption(String(inner.type));
    }
  }

  private async any(label: string, value: Json, within: Locator): Promise<void> {
    const what = within.getByLabel(`Type of ${label}`, { exact: true }).first();
    if (Array.isArray(value)) {
      await what.selectOption('list');
      return this.list(label, {}, value, within);
    }
    if (typeof value === 'object' && value !== null) {
      await what.selectOption('fields');
      return this.record(label, {}, value, within);
    }
    if (value === null) return void (await what.selectOption('nothing'));
    if (typeof value !== 'boolean') return this.build.fill(label, String(value), within);
    await what.selectOption('yes-no');
    return this.build.check(label, value, within);
  }
}

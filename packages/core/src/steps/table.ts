import { z } from 'zod';
import { PindroError } from '../errors.js';
import { isObject, type Json } from '../json.js';
import { defineKind, fixedName, type StepOutcome } from './kind.js';

const value = z.json() as z.ZodType<Json>;
const where = z
  .record(
    z.string(),
    z.union([
      z.strictObject({ gt: value }),
      z.strictObject({ gte: value }),
      z.strictObject({ lt: value }),
      z.strictObject({ lte: value }),
      z.strictObject({ not: value }),
      z.strictObject({ in: z.array(value) }),
      z.strictObject({ contains: z.string() }),
      z.union([z.string(), z.number(), z.boolean(), z.null()]),
    ]),
  )
  .describe('Columns and what they must be; all of them together');

const find = z.strictObject({
  table: z.string().describe('Which table'),
  do: z.literal('find'),
  where: where.default({}),
  sort: z.string().optional().describe('Column to sort by'),
  descending: z.boolean().default(false),
  limit: z.number().int().min(1).max(1000).default(100).describe('At most so many rows'),
});
const add = z.strictObject({
  table: z.string().describe('Which table'),
  do: z.literal('add'),
  row: z.record(z.string(), value).describe('The new row, by column'),
  unless: z
    .strictObject({
      sum: z.string().optional().describe('Column to sum; without it rows are counted'),
      where: where.default({}),
      over: z.number().describe('Refuse when the sum or count is over this'),
    })
    .optional()
    .describe('Checked and added in one go, so that two runs cannot both slip through'),
});
const config = z.discriminatedUnion('do', [find, add]);

export const table = defineKind<z.infer<typeof config>>({
  name: 'table',
  title: 'Table',
  about: 'Finds rows in a table of the workspace, or adds one, on a condition if need be.',
  config,
  repeatable: (raw) => raw.do === 'find',
  branches: (raw) => (raw.unless === undefined ? [] : [{ name: 'added' }, { name: 'refused', aside: true }]),
  sentence: (raw) => {
    if (raw.do !== 'add')
      return [
        'Find rows in ',
        { value: raw.table ?? '' },
        ...(isObject(raw.where) ? [' where ', { value: raw.where }] : []),
      ];
    const condition = isObject(raw.unless)
      ? [
          raw.unless.sum ? ` unless the sum of ${raw.unless.sum} is over ` : ' unless there are more than ',
          { value: raw.unless.over ?? '' },
        ]
      : [];
    return ['Add to ', { value: raw.table ?? '' }, ' ', { value: raw.row ?? {} }, ...condition];
  },
  output: (raw): Record<string, string> =>
    raw.do === 'find' ? { rows: 'list<map<string, dyn>>', count: 'int' } : { row: 'map<string, dyn>', refused: 'bool' },
  references: (raw) => ({ tables: fixedName(raw.table) }),
  run: async (config, { ports, signal, followed }): Promise<StepOutcome> => {
    if (config.do === 'find') {
      const { rows } = await ports.tables.run(
        {
          do: 'find',
          table: config.table,
          where: config.where,
          sort: config.sort ?? null,
          descending: config.descending,
          limit: config.limit,
        },
        { signal },
      );
      return { output: { rows, count: rows.length } };
    }
    const unless = config.unless
      ? { sum: config.unless.sum ?? null, where: config.unless.where, over: config.unless.over }
      : null;
    const { rows, refused } = await ports.tables.run(
      { do: 'add', table: config.table, row: config.row, unless },
      { signal },
    );
    if (!refused) return { output: { row: rows[0] ?? {}, refused: false }, ...(unless && { branch: 'added' }) };
    if (!followed.has('refused')) {
      const what = unless!.sum ? `the sum of ${unless!.sum}` : 'the number of rows';
      throw new PindroError('table_refused', {
        table: config.table,
        why: `${what} is ${refused.found}, over ${refused.over}`,
      });
    }
    return { output: { row: {}, refused: true }, branch: 'refused' };
  },
});

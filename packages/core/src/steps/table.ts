import { z } from 'zod';
import { PindroError } from '../errors/errors.js';
import { isObject, type JsonObject, ownOf } from '../json/json.js';
import type { Filter, TableOperation, Where } from '../ports/ports.js';
import { named, json as value } from './document.js';
import { defineKind, fixedName, type Sentence, type StepOutcome } from './kind.js';
import { columnMistakes } from './table/columns.js';

/** Conditions on the columns of a table. */
export const tableWhere = z
  .record(
    z.string(),
    z.union([
      z.strictObject({ gt: value.describe('Greater than the value, or later') }),
      z.strictObject({ gte: value.describe('The value, or greater') }),
      z.strictObject({ lt: value.describe('Less than the value, or earlier') }),
      z.strictObject({ lte: value.describe('The value, or less') }),
      z.strictObject({ not: value.describe('Another value, or none') }),
      z.strictObject({ in: z.array(value).describe('One of the values') }),
      z.strictObject({ contains: z.string().describe('Text that contains this, ignoring case') }),
      z.union([z.string(), z.number(), z.boolean(), z.null()]),
    ]),
  )
  .meta({ title: 'Where', description: 'Columns and their required values; all must match', form: 'conditions' });
const where = tableWhere;
const name = named('table').meta({ title: 'Table', description: 'Which table' });
const conditions = {
  where: where.default({}),
  any: z.array(where).min(1).optional().meta({
    title: 'Or',
    description: 'Alternatives, any of which may match; in addition to "where"',
    form: 'alternatives',
  }),
};
const row = z.record(z.string(), value).meta({ title: 'Row', description: 'Row to write, by column', form: 'row' });

const config = z.discriminatedUnion('do', [
  z.strictObject({
    table: name,
    do: z.literal('find').meta({ title: 'find rows' }),
    ...conditions,
    sort: z.string().optional().meta({ title: 'Sort by', description: 'Column to sort by', form: 'column' }),
    descending: z.boolean().default(false).meta({ title: 'Descending', description: 'Reverses the order' }),
    limit: z
      .number()
      .int()
      .min(1)
      .max(10_000)
      .default(100)
      .meta({ title: 'Limit', description: 'Maximum number of rows', unit: 'rows' }),
    when_none: z
      .string()
      .optional()
      .meta({
        title: 'Hint if nothing is found',
        description: 'Text to return as "hint" when nothing is found',
        examples: ['Ask for the name of the hut.'],
      }),
  }),
  z.strictObject({ table: name, do: z.literal('count').meta({ title: 'count rows' }), ...conditions }),
  z.strictObject({
    table: name,
    do: z.literal('add').meta({ title: 'add a row' }),
    row,
    unless: z
      .strictObject({
        sum: z
          .string()
          .optional()
          .meta({ title: 'Sum of', description: 'Column to sum; without it, rows are counted', form: 'column' }),
        where: where.default({}),
        over: z
          .number()
          .meta({ title: 'Greater than', description: 'Reject if the sum or count is greater than this' }),
      })
      .optional()
      .meta({
        title: 'Unless',
        description: 'Checked and added atomically, so that two runs cannot both pass',
      }),
  }),
  z.strictObject({
    table: name,
    do: z.literal('change').meta({ title: 'change rows' }),
    ...conditions,
    set: z.record(z.string(), value).meta({
      title: 'New values',
      description: 'By column; expressions also see the present row, such as ${ row.count - 1 }',
      form: 'row',
    }),
    when: z
      .union([
        z.string().refine((text) => text.includes('${'), 'must be true or false; write it as an expression: ${ … }'),
        z.boolean(),
      ])
      .optional()
      .meta({
        title: 'Only if',
        description: 'Condition that every row must meet; otherwise nothing is changed',
        examples: ['${ row.count > 0 }'],
        form: 'condition',
      }),
  }),
  z.strictObject({
    table: name,
    do: z.literal('remove').meta({ title: 'remove rows' }),
    ...conditions,
    all: z.boolean().default(false).meta({ title: 'All rows', description: 'Required to remove all rows' }),
  }),
  z.strictObject({
    table: name,
    do: z.literal('upsert').meta({ title: 'change a row, or add it' }),
    key: z.array(z.string()).min(1).meta({ title: 'Key', description: 'Columns that identify a row', form: 'columns' }),
    row,
  }),
]);
type Config = z.infer<typeof config>;

/** All of `where`, and any of the alternatives. */
function filterOf({ where, any }: { where: Where; any?: Where[] | undefined }): Filter {
  if (any) return any.map((one) => ({ ...where, ...one }));
  return Object.keys(where).length > 0 ? [where] : [];
}

const asText = (when: string | boolean | null) => (typeof when === 'boolean' ? `\${ ${when} }` : when);

const OPENINGS: Record<string, string> = {
  find: 'Find rows in ',
  count: 'Count rows in ',
  add: 'Add to ',
  change: 'Change in ',
  remove: 'Remove from ',
  upsert: 'Change or add in ',
};

const OUTPUTS: Record<string, Record<string, string>> = {
  find: { rows: 'list<map<string, dyn>>', count: 'int', hint: 'string' },
  count: { count: 'int' },
  add: { row: 'map<string, dyn>', refused: 'bool' },
  change: { rows: 'list<map<string, dyn>>', count: 'int', refused: 'bool' },
  remove: { count: 'int' },
  upsert: { row: 'map<string, dyn>', added: 'bool' },
};

function sentence(raw: JsonObject): Sentence {
  const filter: Sentence = [
    ...(isObject(raw.where) ? [' where ', { value: raw.where }] : []),
    ...(Array.isArray(raw.any) ? [' where any of ', { value: raw.any }] : []),
  ];
  const condition = isObject(raw.unless)
    ? [
        raw.unless.sum ? ` unless the sum of ${raw.unless.sum} is over ` : ' unless there are more than ',
        { value: raw.unless.over ?? '' },
      ]
    : [];
  const opening = ownOf(OPENINGS, String(raw.do)) ?? 'Use table ';
  const values = raw.row ?? raw.set;
  const held: Sentence = raw.when === undefined ? [] : [' if ', { value: raw.when }];
  return [
    opening,
    { value: raw.table ?? '' },
    ...filter,
    ...(values === undefined ? [] : [raw.set === undefined ? ' ' : ' to ', { value: values }]),
    ...condition,
    ...held,
  ];
}

export const table = defineKind<Config>({
  name: 'table',
  title: 'Table',
  about: 'Finds, counts, adds, updates or removes rows in a table of the workspace. Each operation is atomic.',
  config,
  ledger: true,
  repeatable: (raw) => raw.do === 'find' || raw.do === 'count',
  effects: (raw) => ({
    writes: raw.do !== 'find' && raw.do !== 'count',
    destroys: ['change', 'remove', 'upsert'].includes(String(raw.do)),
    repeatable: raw.do !== 'add',
  }),
  late: { reads: 'row', parts: ['set', 'when'] },
  conditions: ['when'],
  mistakes: (raw, { columns }) => columnMistakes(raw, columns),
  branches: (raw) => {
    if (raw.unless !== undefined) return [{ name: 'added' }, { name: 'refused', aside: true }];
    const none = raw.do === 'change' || raw.do === 'remove' ? [{ name: 'none', aside: true }] : [];
    return raw.when === undefined ? none : [{ name: 'changed' }, { name: 'refused', aside: true }, ...none];
  },
  sentence,
  output: (raw) => ownOf(OUTPUTS, String(raw.do)) ?? {},
  references: (raw) => ({ tables: fixedName(raw.table) }),
  run: async (config, context): Promise<StepOutcome> => {
    const { signal, followed, recorder, path, attempt } = context;
    const { ports, caller } = context.run;
    const key = `${recorder.head.id}/${path}/${attempt}`;
    const run = (operation: TableOperation) => ports.tables.run(operation, { signal, caller: caller.id, key });
    const { table } = config;
    switch (config.do) {
      case 'find': {
        const { sort = null, descending, limit, when_none } = config;
        const { rows } = await run({ do: 'find', table, where: filterOf(config), sort, descending, limit });
        return { output: { rows, count: rows.length, hint: rows.length === 0 ? (when_none ?? '') : '' } };
      }
      case 'count': {
        const { count = 0 } = await run({ do: 'count', table, where: filterOf(config) });
        return { output: { count } };
      }
      case 'change': {
        const { set, when = null } = config;
        const where = filterOf(config);
        // What speaks of the row can only be filled where it is. What was filled already is data, and never read again.
        const late = context.raw.has('set') && { when: asText(when), scope: context.seenBy({ set, when }) };
        if (!late && when !== null && typeof when !== 'boolean')
          throw new PindroError(
            'config_refused',
            { why: `"when" must be true or false, not ${JSON.stringify(when).slice(0, 80)}`, kind: 'table' },
            { at: '/when' },
          );
        const { rows, unfit } =
          when === false
            ? { rows: [], unfit: {} as JsonObject }
            : await run({ do: 'change', table, where, set, ...(late && { late }) });
        if (!unfit) {
          const output = { rows, count: rows.length, refused: false };
          if (rows.length === 0 && followed.has('none')) return { output, branch: 'none' };
          return { output, ...(when !== null && { branch: 'changed' }) };
        }
        if (followed.has('refused')) return { output: { rows: [], count: 0, refused: true }, branch: 'refused' };
        throw new PindroError(
          'table_refused',
          { table, why: `${when} is not true${'id' in unfit ? ` for row ${unfit.id}` : ''}` },
          { at: '/when', details: { table, row: unfit } },
        );
      }
      case 'remove': {
        const filter = filterOf(config);
        if (filter.length === 0 && !config.all)
          throw new PindroError(
            'config_refused',
            {
              why: '"where" is missing, so every row would be removed; add "all: true" to remove all rows',
              kind: 'table',
            },
            { at: '/where' },
          );
        const { count = 0 } = await run({ do: 'remove', table, where: filter });
        return { output: { count }, ...(count === 0 && followed.has('none') && { branch: 'none' }) };
      }
      case 'upsert': {
        const { rows, added = false } = await run({ do: 'upsert', table, key: config.key, row: config.row });
        return { output: { row: rows[0] ?? {}, added } };
      }
      case 'add': {
        const { unless } = config;
        const condition = unless ? { sum: unless.sum ?? null, where: unless.where, over: unless.over } : null;
        const { rows, refused } = await run({ do: 'add', table, row: config.row, unless: condition });
        if (!refused) return { output: { row: rows[0] ?? {}, refused: false }, ...(unless && { branch: 'added' }) };
        if (followed.has('refused')) return { output: { row: {}, refused: true }, branch: 'refused' };
        const what = unless!.sum ? `the sum of ${unless!.sum}` : 'the number of rows';
        throw new PindroError('table_refused', { table, why: `${what} is ${refused.found}, over ${refused.over}` });
      }
    }
  },
});

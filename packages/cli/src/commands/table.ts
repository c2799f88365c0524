import { type Command, InvalidArgumentError } from '@commander-js/extra-typings';
import { type Client, columnType, RESOURCE, type TableSummary } from '@pindro/contract';
import pc from 'picocolors';
import { withService } from '../context.js';
import { collectOne, collectText } from '../input/pairs.js';
import { facts, table } from '../output/table.js';
import { wholeVerbs } from './common-verbs.js';

type ColumnType = TableSummary['columns'][number]['type'];

export const wholeNumber = (text: string): number => {
  const value = Number(text);
  if (!Number.isSafeInteger(value) || value < 1) throw new InvalidArgumentError('Use an integer from 1.');
  return value;
};

const TYPES = columnType.options;
/** A column as name:type. */
function collectColumn(text: string, before: Record<string, ColumnType>): Record<string, ColumnType> {
  const [name, type = 'text', ...more] = text.split(':');
  const known = TYPES.find((one) => one === type);
  if (!name || !known || more.length > 0)
    throw new InvalidArgumentError(`Use name:type, where type is ${TYPES.join(', ')}.`);
  return { ...before, [name]: known };
}

const columnsOf = ({ columns }: TableSummary) => columns.map(({ name, type }) => `${name} ${type}`).join(', ');

export function tableCommands(program: Command): void {
  const tables = program
    .command('table')
    .description('tables: create, list, show, update, rename, copy, remove; for their rows see "pindro row"');

  listCommand(tables);
  createCommand(tables);
  updateCommand(tables);
  copyCommand(tables);

  wholeVerbs(tables, RESOURCE.table, {
    named: '<name>',
    show: showTable,
  });
}

async function showTable(client: Client, [name]: string[]) {
  const one = await client.getTable({ name: name! });
  const { items } = await client.tableUses({ name: name! });
  const text = facts([
    ['table', one.name],
    ['rows', String(one.rows)],
    ['columns', columnsOf(one)],
    ['owner column', one.owner ?? '-'],
    ['used by', items.join(', ') || '-'],
  ]);
  return { value: one, text };
}

function listCommand(tables: Command): void {
  tables
    .command('list [words]')
    .description('lists tables, optionally filtered by words in their name or columns')
    .action(
      withService(async ({ client, print }, [search]) => {
        const { items } = await client.listTables({ query: search ? { search } : {} });
        print({ items }, () =>
          items.length > 0
            ? table(
                ['TABLE', 'ROWS', 'COLUMNS'],
                items.map((one) => [one.name, String(one.rows), columnsOf(one)]),
              )
            : search
              ? 'No matching tables.'
              : 'No tables yet. Create one with "pindro table create NAME COLUMN:TYPE ...".',
        );
      }),
    );
}

function createCommand(tables: Command): void {
  tables
    .command('create <name> <columns...>')
    .description(`creates a table; columns are name:type, where type is ${TYPES.join(', ')}`)
    .option('--owner <column>', 'text column with the caller; each caller then sees and changes only their own rows')
    .action(
      withService(async ({ client, print }, [name, given], { owner }) => {
        const columns = given.reduce((before, text) => collectColumn(text, before), {});
        const made = await client.createTable({ body: { name, columns, ...(owner && { owner }) } });
        print(made, `${pc.green('✓')} ${made.name}: ${columnsOf(made)}`);
      }),
    );
}

function updateCommand(tables: Command): void {
  tables
    .command('update <name>')
    .description('changes its columns atomically; a type change requires that every row fits it')
    .option('--add <column:type>', 'new column; repeatable, like the others', collectColumn, {})
    .option('--rename <column=name>', 'renames a column; flows follow', collectText, {})
    .option('--type <column:type>', 'changes the type of a column', collectColumn, {})
    .option('--drop <column>', 'removes a column and its values', collectOne, [])
    .option('--owner <column>', 'text column with the caller; "" stops separating callers')
    .action(
      withService(async ({ client, print }, [name], options) => {
        const changed = await client.updateTable({
          name,
          body: {
            add: options.add as Record<string, ColumnType>,
            rename: options.rename as Record<string, string>,
            types: options.type as Record<string, ColumnType>,
            drop: options.drop as string[],
            ...(options.owner !== undefined && { owner: String(options.owner) || null }),
          },
        });
        const follow = changed.changed.length > 0 ? `\n updated drafts: ${changed.changed.join(', ')}` : '';
        print(changed, `${pc.green('✓')} ${changed.name}: ${columnsOf(changed)}${follow}`);
      }),
    );
}

function copyCommand(tables: Command): void {
  tables
    .command('copy <name> <to>')
    .description('creates a table with the same columns')
    .option('--rows', 'also copies the rows')
    .action(
      withService(async ({ client, print }, [name, to], { rows }: { rows?: boolean }) => {
        const made = await client.copyTable({ name, body: { to, rows: rows === true } });
        print(made, `${pc.green('✓')} Created ${made.name} with ${made.rows} rows`);
      }),
    );
}

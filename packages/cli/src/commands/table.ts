import { type Command, InvalidArgumentError } from 'commander';
import { withService } from '../context.js';
import { brief, table } from '../output/table.js';

export const wholeNumber = (text: string): number => {
  const value = Number(text);
  if (!Number.isSafeInteger(value) || value < 1) throw new InvalidArgumentError('It must be a whole number from 1.');
  return value;
};

export function tableCommands(program: Command): void {
  const tables = program.command('table').description('tables: list, rows');

  tables
    .command('list')
    .description('all tables')
    .action(
      withService(async ({ client, print }) => {
        const { items } = await client.listTables();
        print({ items }, () =>
          items.length > 0
            ? table(
                ['TABLE', 'ROWS', 'COLUMNS'],
                items.map((one) => [
                  one.name,
                  String(one.rows),
                  one.columns.map((column) => `${column.name} ${column.type}`).join(', '),
                ]),
              )
            : 'No table yet.',
        );
      }),
    );

  tables
    .command('rows <name>')
    .description('rows of a table, newest first')
    .option('--limit <count>', 'at most so many', wholeNumber, 50)
    .action(
      withService(async ({ client, print }, [name], options: Record<string, unknown>) => {
        const page = await client.tableRows({ name: name!, query: { limit: options.limit as number } });
        const columns = ['id', ...page.columns.map((column) => column.name)];
        print(page, () =>
          page.items.length > 0
            ? table(
                columns,
                page.items.map((row) => columns.map((column) => brief(row[column] ?? '', 40))),
              )
            : `${name} has no rows yet.`,
        );
      }),
    );
}

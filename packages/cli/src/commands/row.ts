import { createReadStream, createWriteStream, statSync } from 'node:fs';
import type { Client, TableSummary } from '@pindro/contract';
import { CSV_READING, CSV_WRITING, isObject, type JsonObject } from '@pindro/core/browser';
import type { Command } from 'commander';
import { parse } from 'csv-parse';
import { stringify } from 'csv-stringify/sync';
import pc from 'picocolors';
import { type Context, withService } from '../context.js';
import { fromCell, toCell } from '../input/csv.js';
import { collectValue } from '../input/pairs.js';
import { brief, facts, moment, table } from '../output/table.js';
import { usage } from '../usage.js';
import { wholeNumber } from './table.js';
import { wholeVerbs } from './whole.js';

/** So many rows are sent at once. */
const BATCH = 500;

export function rowCommands(program: Command): void {
  const row = program
    .command('row')
    .description('rows of tables: add, list, show, history, change, remove, import, export');

  row
    .command('list <table> [words]')
    .description('rows of a table, newest first, or those with these words in one of their values')
    .option('--where <column=value>', 'only where a column has a value; may be given more than once', collectValue, {})
    .option('--limit <count>', 'at most so many', wholeNumber, 50)
    .action(
      withService(async ({ client, print }, [name, search], options: Record<string, unknown>) => {
        const where = options.where as JsonObject;
        const page = await client.tableRows({
          name: name!,
          query: {
            limit: options.limit as number,
            ...(search && { search }),
            ...(Object.keys(where).length > 0 && { where: JSON.stringify(where) }),
          },
        });
        const columns = ['id', ...page.columns.map((column) => column.name)];
        print(page, () =>
          page.items.length > 0
            ? table(
                columns,
                page.items.map((one) => columns.map((column) => brief(one[column] ?? '', 40))),
              ) + (page.next ? pc.dim('\nThere are more; --limit shows them.') : '')
            : `${name} has no rows${search || Object.keys(where).length > 0 ? ' like that' : ' yet'}.`,
        );
      }),
    );

  row
    .command('add <table> <values...>')
    .description('adds a row; values are written column=value, one that is JSON is taken as such')
    .action(
      withService(async ({ client, print }, [name, ...given]) => {
        const { columns } = await client.getTable({ name: name! });
        const added = await client.addRow({ name: name!, body: { row: rowOf(given, columns) } });
        print(added, `${pc.green('✓')} row ${added.row.id} of ${name}`);
      }),
    );

  row
    .command('change <table> <id> <values...>')
    .description('changes values of a row; what is not named stays')
    .action(
      withService(async ({ client, print }, [name, id, ...given]) => {
        const { columns } = await client.getTable({ name: name! });
        const changed = await client.changeRow({ name: name!, row: id!, body: { set: rowOf(given, columns) } });
        print(changed, `${pc.green('✓')} row ${id} of ${name}: ${brief(changed.row)}`);
      }),
    );

  row
    .command('history <table> <id>')
    .description('who made and changed a row, the latest first: people, and runs with their step')
    .action(
      withService(async ({ client, print }, [name, id]) => {
        const { items } = await client.rowHistory({ name: name!, row: id! });
        const rows = items.map((one) => [
          moment(one.at),
          one.did,
          one.by,
          one.run ? `${one.run}${one.step ? ` step ${one.step}` : ''}` : 'by hand',
          one.columns.join(', '),
        ]);
        print({ items }, () =>
          items.length > 0
            ? table(['WHEN', 'WHAT', 'BY', 'IN', 'COLUMNS'], rows)
            : `Nothing is known of how row ${id} of ${name} came about; what is long ago is let go of.`,
        );
      }),
    );

  wholeVerbs(row, 'row', {
    named: '<table> <id>',
    show: async (client, [name, id]) => {
      const { row: one } = await client.getRow({ name: name!, row: id! });
      return {
        value: one,
        text: facts(Object.entries(one).map(([column, value]) => [column, brief(value ?? '-', 400)])),
      };
    },
    remove: (client, [name, id], query) => client.removeRow({ name: name!, row: id!, query }),
  });

  row
    .command('import <table> <file>')
    .description(
      'adds the rows of a CSV file, whose first line names the columns; every row is looked at before any is added',
    )
    .action(
      withService(async (context, [name, file]) => {
        const { client, print } = context;
        const { columns } = await client.getTable({ name: name! });
        const total = statSync(file!).size;
        await readRows(
          file!,
          columns,
          async () => {},
          (bytes) => tell(context, 'looking at', bytes, total),
        );
        let added = 0;
        await readRows(
          file!,
          columns,
          async (rows) => {
            await client.addRows({ name: name!, body: { rows } }).catch((error: unknown) => {
              if (error instanceof Error) error.message += ` (${added} rows of the file were added before)`;
              throw error;
            });
            added += rows.length;
          },
          (bytes) => tell(context, 'adding', bytes, total),
        );
        print({ added }, `${pc.green('✓')} ${added} rows added to ${name}`);
      }),
    );

  row
    .command('export <table> [file]')
    .description('writes all rows as CSV, the oldest first; to standard output if no file is named')
    .action(
      withService(async (context, [name, file]) => {
        const { columns, rows } = await context.client.getTable({ name: name! });
        const names = ['id', ...columns.map((column) => column.name)];
        const out = file ? createWriteStream(file) : process.stdout;
        const write = (text: string) =>
          new Promise<void>((done) => (out.write(text) ? done() : out.once('drain', done)));
        await write(stringify([names], CSV_WRITING));
        let written = 0;
        for await (const piece of allRows(context.client, name!)) {
          await write(
            stringify(
              piece.map((one) => names.map((column) => toCell(one[column] ?? null))),
              CSV_WRITING,
            ),
          );
          written += piece.length;
          context.progress(`${written} of ${rows} rows`);
        }
        if (file) await new Promise<void>((done) => (out as ReturnType<typeof createWriteStream>).end(done));
        if (file) context.print({ written }, `${pc.green('✓')} ${written} rows in ${file}`);
      }),
    );
}

const tell = ({ progress }: Context, what: string, bytes: number, total: number) =>
  progress(`${what} ${Math.min(100, Math.round((100 * bytes) / Math.max(1, total)))} %`);

async function* allRows(client: Client, name: string): AsyncGenerator<JsonObject[]> {
  for (let cursor: string | null | undefined; cursor !== null; ) {
    const page = await client.tableRows({ name, query: { limit: 500, oldest: 'true', ...(cursor && { cursor }) } });
    yield page.items as JsonObject[];
    cursor = page.next;
  }
}

/** Values written column=value; a text column takes what it is given as it is. */
function rowOf(given: string[], columns: TableSummary['columns']): JsonObject {
  const all = given.reduce<Record<string, unknown>>((before, text) => collectValue(text, before), {});
  for (const text of given) {
    const name = text.slice(0, text.indexOf('='));
    const type = columns.find((column) => column.name === name)?.type;
    if (type === 'text' || type === 'date') all[name] = text.slice(text.indexOf('=') + 1);
  }
  if (!isObject(all as JsonObject)) throw usage('Write values as column=value', '');
  return all as JsonObject;
}

/** Reads a CSV file in pieces of rows, each value as its column has it. @throws with the line that does not fit */
async function readRows(
  file: string,
  columns: TableSummary['columns'],
  take: (rows: JsonObject[]) => Promise<void>,
  tellBytes: (bytes: number) => void,
): Promise<void> {
  const source = createReadStream(file);
  const records = source.pipe(parse({ ...CSV_READING, columns: true, info: true }));
  source.on('error', (error) => records.destroy(error));
  let rows: JsonObject[] = [];
  let since = 0;
  for await (const { record, info } of records as AsyncIterable<{
    record: Record<string, string>;
    info: { lines: number; bytes: number };
  }>) {
    const row: JsonObject = {};
    for (const [name, text] of Object.entries(record)) {
      if (name === 'id') continue;
      const column = columns.find((one) => one.name === name);
      if (!column)
        throw usage(
          `${file}: the first line names "${name}", which is no column`,
          `It has ${columns.map((one) => one.name).join(', ')}.`,
        );
      row[name] = fromCell(text, column, `${file}, line ${info.lines}`);
    }
    rows.push(row);
    if (rows.length < BATCH) continue;
    await take(rows);
    rows = [];
    if (info.bytes - since > 1_000_000) {
      since = info.bytes;
      tellBytes(info.bytes);
    }
  }
  if (rows.length > 0) await take(rows);
}

import { createReadStream, createWriteStream, statSync } from 'node:fs';
import type { Command } from '@commander-js/extra-typings';
import { type Client, RESOURCE, type TableSummary } from '@pindro/contract';
import {
  CSV_READING,
  CSV_WRITING,
  type CsvRecord,
  isObject,
  type JsonObject,
  readCsvHead,
  readCsvRecord,
  writeCsvRecord,
} from '@pindro/core/browser';
import { parse } from 'csv-parse';
import { stringify } from 'csv-stringify/sync';
import pc from 'picocolors';
import { type Context, withService } from '../context.js';
import { collectValue } from '../input/pairs.js';
import { brief, facts, moment, table } from '../output/table.js';
import { usage } from '../usage.js';
import { wholeVerbs } from './common-verbs.js';
import { wholeNumber } from './table.js';

/** Rows per request. */
const BATCH = 500;

export function rowCommands(program: Command): void {
  const row = program
    .command('row')
    .description('rows of tables: add, list, show, history, update, remove, import, export');

  listCommand(row);
  addCommand(row);
  updateCommand(row);
  historyCommand(row);

  wholeVerbs(row, RESOURCE.row, {
    named: '<table> <id>',
    show: async (client, [name, id]) => {
      const { row: one } = await client.getRow({ name: name!, row: id! });
      return {
        value: one,
        text: facts(Object.entries(one).map(([column, value]) => [column, brief(value ?? '-', 400)])),
      };
    },
  });

  importCommand(row);
  exportCommand(row);
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

interface Source {
  file: string;
  columns: TableSummary['columns'];
  key?: string;
}

/**
 * Reads a CSV file in batches of rows, with the number of bytes read so far.
 * @throws usage with every problem of the file, once all of it was read
 */
async function* readRows({ file, columns, key }: Source): AsyncGenerator<{ rows: JsonObject[]; bytes: number }> {
  const source = createReadStream(file);
  const records = source.pipe(parse(CSV_READING));
  source.on('error', (error) => records.destroy(error));
  const problems: string[] = [];
  let rows: JsonObject[] = [];
  let known: ReturnType<typeof readCsvHead> | null = null;
  let bytes = 0;
  try {
    for await (const one of records as AsyncIterable<CsvRecord & { info: { bytes: number } }>) {
      bytes = one.info.bytes;
      if (!known) {
        known = readCsvHead(one.record, columns, key);
        if ('problems' in known) throw refused(file, known.problems);
        continue;
      }
      const read = readCsvRecord(one, (known as { columns: never }).columns);
      if ('problems' in read) problems.push(...read.problems);
      else rows.push(read.row);
      if (rows.length < BATCH) continue;
      if (problems.length === 0) yield { rows, bytes };
      rows = [];
    }
  } catch (error) {
    if (!String((error as { code?: string }).code).startsWith('CSV_')) throw error;
    problems.push((error as Error).message);
  }
  if (problems.length > 0) throw refused(file, problems);
  if (rows.length > 0) yield { rows, bytes };
}

/** Problems shown of one file. */
const SHOWN = 50;

const refused = (file: string, problems: string[]) =>
  usage(
    `${file} has ${problems.length} ${problems.length === 1 ? 'problem' : 'problems'}:\n${problems
      .slice(0, SHOWN)
      .map((one) => `  ${one}`)
      .join('\n')}${problems.length > SHOWN ? `\n  … and ${problems.length - SHOWN} more` : ''}`,
    'No row was imported. Fix the file and import it again.',
  );

function listCommand(row: Command): void {
  row
    .command('list <table> [words]')
    .description('lists rows of a table, newest first, optionally filtered by words')
    .option('--where <column=value>', 'only rows with this column value; repeatable', collectValue, {})
    .option('--limit <count>', 'maximum number', wholeNumber, 50)
    .action(
      withService(async ({ client, print }, [name, search], options) => {
        const where = options.where as JsonObject;
        const page = await client.tableRows({
          name,
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
              ) + (page.next ? pc.dim('\nThere are more; raise --limit to see them.') : '')
            : `${name} has no ${search || Object.keys(where).length > 0 ? 'matching rows' : 'rows yet'}.`,
        );
      }),
    );
}

function addCommand(row: Command): void {
  row
    .command('add <table> <values...>')
    .description('adds a row; values are column=value, and valid JSON is parsed')
    .action(
      withService(async ({ client, print }, [name, given]) => {
        const { columns } = await client.getTable({ name });
        const added = await client.addRow({ name, body: { row: rowOf(given, columns) } });
        print(added, `${pc.green('✓')} row ${added.row.id} of ${name}`);
      }),
    );
}

function updateCommand(row: Command): void {
  row
    .command('update <table> <id> <values...>')
    .description('updates values of a row; other values remain')
    .action(
      withService(async ({ client, print }, [name, id, given]) => {
        const { columns } = await client.getTable({ name });
        const changed = await client.updateRow({ name, row: id, body: { set: rowOf(given, columns) } });
        print(changed, `${pc.green('✓')} row ${id} of ${name}: ${brief(changed.row)}`);
      }),
    );
}

function historyCommand(row: Command): void {
  row
    .command('history <table> <id>')
    .description('shows who created and updated a row, most recent first: people, and runs with their step')
    .action(
      withService(async ({ client, print }, [name, id]) => {
        const { items } = await client.rowHistory({ name, row: id });
        const rows = items.map((one) => [
          moment(one.at),
          one.did,
          one.by,
          one.run ? `${one.run}${one.step ? ` step ${one.step}` : ''}` : 'manually',
          one.columns.join(', '),
        ]);
        print({ items }, () =>
          items.length > 0
            ? table(['WHEN', 'WHAT', 'BY', 'IN', 'COLUMNS'], rows)
            : `No history for row ${id} of ${name}; old entries are deleted.`,
        );
      }),
    );
}

function importCommand(row: Command): void {
  row
    .command('import <table> <file>')
    .description('imports rows from a CSV file (RFC 4180) with a header line; the whole file is checked first')
    .option('--update-by <column>', 'updates rows with the same value in this column (or id), and adds the others')
    .action(
      withService(async (context, [name, file], { updateBy: key }: { updateBy?: string }) => {
        const { client, print } = context;
        const { columns } = await client.getTable({ name });
        const size = statSync(file).size;
        const source = { file, columns, ...(key !== undefined && { key }) };
        for await (const { bytes } of readRows(source)) tell(context, 'checking', bytes, size);
        const total = { added: 0, changed: 0 };
        for await (const { rows, bytes } of readRows(source)) {
          const { added, changed } = await client
            .addRows({ name, body: { rows, ...(key !== undefined && { key }) } })
            .catch((error: unknown) => {
              const before = total.added + total.changed;
              if (error instanceof Error) error.message += ` (${before} rows of the file were imported before)`;
              throw error;
            });
          total.added += added;
          total.changed += changed;
          tell(context, 'importing', bytes, size);
        }
        const updated = key === undefined ? '' : `, ${total.changed} updated`;
        print(total, `${pc.green('✓')} ${total.added} rows added to ${name}${updated}`);
      }),
    );
}

function exportCommand(row: Command): void {
  row
    .command('export <table> [file]')
    .description('exports all rows as CSV (RFC 4180), oldest first; to standard output by default')
    .action(
      withService(async (context, [name, file]) => {
        const { columns, rows } = await context.client.getTable({ name });
        const written = [{ name: 'id', type: 'whole' as const }, ...columns];
        const out = file ? createWriteStream(file) : process.stdout;
        const write = (text: string) =>
          new Promise<void>((done) => (out.write(text) ? done() : out.once('drain', done)));
        await write(stringify([written.map((column) => column.name)], CSV_WRITING));
        let count = 0;
        for await (const piece of allRows(context.client, name)) {
          await write(
            stringify(
              piece.map((one) => writeCsvRecord(one, written)),
              CSV_WRITING,
            ),
          );
          count += piece.length;
          context.progress(`${count} of ${rows} rows`);
        }
        if (file) await new Promise<void>((done) => (out as ReturnType<typeof createWriteStream>).end(done));
        if (file) context.print({ written: count }, `${pc.green('✓')} ${count} rows in ${file}`);
      }),
    );
}

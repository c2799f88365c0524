import type { Client } from '@pindro/contract';
import { brief, table } from './table.js';

/** The arguments that are written `NAME=?`: their values are listed in place of the command's own work. */
export const askedFor = (texts: Record<string, string>): string[] =>
  Object.keys(texts).filter((name) => texts[name] === '?');

type Wanted = Parameters<Client['listValues']>[0]['body'];

/** Lists the values of one argument or input, with where they come from. */
export async function showValues(client: Client, wanted: Wanted): Promise<{ value: unknown; text: string }> {
  const found = await client.listValues({ body: wanted });
  const { tool, flow, table: of, server } = found.from;
  const source = tool ? `${tool}${server ? ` of ${server}` : ''}` : flow ? `flow ${flow}` : `table ${of}`;
  const isLabelled = found.items.some(({ label }) => label !== '');
  const rows = found.items.map(({ value, label }) => [brief(value, 60), ...(isLabelled ? [brief(label, 80)] : [])]);
  const text =
    rows.length > 0
      ? `${table([wanted.argument.toUpperCase(), ...(isLabelled ? ['LABEL'] : [])], rows)}\nFrom ${source}.`
      : `${source} lists no values for ${wanted.argument}.`;
  return { value: found, text };
}

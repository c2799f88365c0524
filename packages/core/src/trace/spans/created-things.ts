import { isObject, type JsonObject } from '../../json/json.js';
import { attribute } from './attributes.js';
import type { Span } from './span.js';

export interface MadeThing {
  label: string;
  /** What it is in; null for what is not in the workspace. */
  place: { table: string; row?: number } | { server: string } | null;
}

/** Maximum number of listed rows of one step. */
const MOST_ROWS = 5;

/** What a run left behind, each with where to see it. */
export const madeThings = (spans: readonly Span[]): MadeThing[] => spans.flatMap(madeBySpan);

/** What one span left behind. */
export function madeBySpan(span: Span): MadeThing[] {
  const { status, work, attributes, input, output } = span;
  // What a kept result stood in for was not done.
  if (status !== 'ok' || attributes[attribute.held]) return [];
  if (work === 'tool') return attributes[attribute.server] ? madeByTool(span) : [];
  if (work !== 'step' || !isObject(input) || !isObject(output)) return [];
  if (attributes[attribute.kind] === 'table') return madeInTable(input, output);
  return attributes[attribute.kind] === 'mail' ? madeByMail(input, output) : [];
}

/** What a step did to rows. */
function madeInTable({ do: what, table: named }: JsonObject, output: JsonObject): MadeThing[] {
  const table = String(named);
  const row = (one: unknown, how: string): MadeThing[] =>
    isObject(one) && one.id !== undefined
      ? [{ label: `row ${one.id} in ${table}${how}`, place: { table, row: Number(one.id) } }]
      : [];
  if (output.refused === true) return [];
  if (what === 'add') return row(output.row, '');
  if (what === 'upsert') return row(output.row, output.added === true ? '' : ', changed');
  if (what === 'remove' && Number(output.count) > 0)
    return [{ label: `${output.count} removed from ${table}`, place: { table } }];
  if (what !== 'change' || !Array.isArray(output.rows)) return [];
  if (output.rows.length > MOST_ROWS)
    return [{ label: `${output.rows.length} rows in ${table}, updated`, place: { table } }];
  return output.rows.flatMap((one) => row(one, ', changed'));
}

function madeByMail({ subject }: JsonObject, { to }: JsonObject): MadeThing[] {
  const reached = [to].flat().filter((one) => typeof one === 'string');
  return reached.length > 0 ? [{ label: `mail “${subject}” to ${reached.join(', ')}`, place: null }] : [];
}

/** What a tool that does more than read has made stands at its server. */
function madeByTool(span: Span): MadeThing[] {
  const tool = String(span.attributes[attribute.tool]);
  if (/^(?:list|get|show|find|search|read|check)_|_status$/.test(tool)) return [];
  const server = String(span.attributes[attribute.server]);
  return [{ label: `${tool.replaceAll('_', ' ')} at ${server}`, place: { server } }];
}

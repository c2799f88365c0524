import type { Client } from '@pindro/contract';
import { attribute, type Exchange, type Span } from '@pindro/core/browser';
import pc from 'picocolors';
import { labelOfSpan } from './run-tree.js';
import { moment } from './table.js';

export interface FoundExchanges {
  run: string;
  span: string;
  /** The purpose of the exchange. */
  what: string;
  exchanges: Exchange[];
}

/** Exchanges of this many steps, models and tools are loaded at once: a loop may have failed a thousand times. */
const MOST = 50;

/**
 * What was kept of a run and all it began. @param where only of this step, model or tool
 * @returns `more`: of how many further ones it was kept, and not read
 */
export async function exchangesIn(
  client: Client,
  id: string,
  where?: string,
): Promise<{ items: FoundExchanges[]; more: number }> {
  const { spans } = await client.getRun({ id, query: { brief: 'true' } });
  const wanted = (spans as Span[]).filter((span) => attribute.exchanged in span.attributes && isAt(span, where));
  const items: FoundExchanges[] = [];
  for (const span of wanted.slice(0, MOST)) {
    const { items: exchanges } = await client.runExchanges({ id: span.run, span: span.spanId });
    items.push({ run: span.run, span: span.spanId, what: labelOfSpan(span), exchanges });
  }
  return { items, more: wanted.length - items.length };
}

function isAt({ name, attributes }: Span, where: string | undefined): boolean {
  const names = [attribute.path, attribute.tool, attribute.model].map((one) => attributes[one]);
  return !where || name === where || names.includes(where);
}

export function showExchanges(
  { items, more }: { items: readonly FoundExchanges[]; more: number },
  where?: string,
): string {
  if (items.length === 0)
    return `No exchanges were captured${where ? ` for ${where}` : ''}. Only failed ones are captured by default; "pindro run retry RUN --capture" captures all.`;
  const shown = items.flatMap(({ what, exchanges }) =>
    exchanges.map((one, index) => {
      const number = exchanges.length > 1 ? `, ${index + 1} of ${exchanges.length}` : '';
      const head = `${pc.bold(what)}${pc.dim(`${number}  ${moment(new Date(one.at).toISOString())}`)}`;
      return [head, ...wire(one)].join('\n');
    }),
  );
  return [
    ...shown,
    ...(more > 0 ? [pc.dim(`${more} more are not shown; name a step, model or tool to see its own`)] : []),
  ].join('\n\n');
}

function wire({ request, answer, error }: Exchange): string[] {
  const first = request.address === undefined ? 'a line to the program' : `${request.method} ${request.address}`;
  const came = answer?.status === undefined ? 'answered' : `status ${answer.status}`;
  return [
    `${pc.cyan('→')} ${first}`,
    ...side(request),
    ...(answer ? [`${pc.cyan('←')} ${came}`, ...side(answer)] : []),
    ...(error === undefined && answer ? [] : [`${pc.red('✗')} ${error ?? 'no response'}`]),
  ];
}

function side({ headers = {}, body, characters }: Exchange['request']): string[] {
  return [
    ...Object.entries(headers).map(([name, value]) => pc.dim(`  ${name}: ${value}`)),
    ...(body === '' ? [] : indented(body)),
    ...(characters === undefined ? [] : [pc.dim(`  … the first ${characters} characters`)]),
  ];
}

const indented = (body: string) =>
  readable(body)
    .split('\n')
    .map((line) => `  ${line}`);

/** JSON in lines, where it is that. */
function readable(body: string): string {
  try {
    return JSON.stringify(JSON.parse(body), null, 2);
  } catch {
    return body.trimEnd();
  }
}

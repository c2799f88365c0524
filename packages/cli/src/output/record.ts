import type { RecordOverview } from '@pindro/contract';
import { humanSize } from '@pindro/core/browser';
import { moment } from './table.js';

/** How much of the record of runs there is, and what is next to go, in a line. */
export function recordLine({ bytes, limit, days, failedDays, payloads, next }: RecordOverview): string {
  const kept = `retention ${days} days, failed runs ${failedDays}`;
  const goes = next ? `; next to expire: ${next.run}, ${moment(next.at)}` : '';
  return `${humanSize(bytes)} of ${humanSize(limit)}, long values ${humanSize(payloads.bytes)}; ${kept}${goes}`;
}

import type { Client, RunSummary } from '@pindro/contract';
import pc from 'picocolors';
import { safe } from './safe.js';
import { brief, moment, state } from './table.js';

type Query = NonNullable<NonNullable<Parameters<Client['listRuns']>[0]>['query']>;
/** What happens at once is looked up together, after so long, in milliseconds: what is found in a run is there a moment after its end. */
const GATHER = 300;

/** Tells of runs that fit as they end, until it is stopped. Whoever reads it as JSON gets a run a line. */
export async function followRuns(
  client: Client,
  query: Query,
  before: readonly RunSummary[],
  json: boolean,
): Promise<void> {
  const say = (one: RunSummary) => process.stdout.write(`${json ? JSON.stringify(one) : safe(lineOf(one))}\n`);
  const told = new Set(before.filter(({ endedAt }) => endedAt !== null).map(({ id }) => id));
  const tell = async () => {
    const { items } = await client.listRuns({ query: { ...query, limit: 100 } });
    const fresh = items.filter(({ id, endedAt }) => endedAt !== null && !told.has(id)).reverse();
    for (const one of fresh) {
      told.add(one.id);
      say(one);
    }
  };
  for (const one of [...before].reverse()) say(one);
  let isWaiting = false;
  let failed: (error: unknown) => void = () => {};
  const trouble = new Promise<never>((_, reject) => (failed = reject));
  const listen = async () => {
    for await (const event of client.events()) {
      if (event.type !== 'run' || isWaiting) continue;
      isWaiting = true;
      setTimeout(() => {
        isWaiting = false;
        void tell().catch(failed);
      }, GATHER);
    }
  };
  await Promise.race([listen(), trouble]);
}

const lineOf = ({ startedAt, id, flow, state: how, title, doubt }: RunSummary) =>
  [
    pc.dim(moment(startedAt)),
    id,
    flow,
    state(how),
    title ? pc.red(brief(title, 110)) : doubt ? pc.yellow(brief(doubt, 110)) : '',
  ]
    .join('  ')
    .trimEnd();

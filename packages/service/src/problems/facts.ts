import { Facts, type JsonObject, type ModelFact, type NearFact, type Need, type ServerFact } from '@pindro/core';
import type { Parts } from '../platform/capability.js';

/** So long it is waited for all facts together, in milliseconds: a run is explained without what takes longer. */
const WITHIN = 3000;
/** So many rows are looked at for those that a search nearly finds. */
const ROWS = 2000;

type Sources = Pick<Parts, 'servers' | 'models' | 'flows' | 'endpoints' | 'tables' | 'credentials'>;

/**
 * Gathers what rules want to know beside a trace, within what the caller of the run may see.
 * @param caller on whose behalf the run happened
 */
export async function gatherFacts(needs: readonly Need[], sources: Sources, caller: string): Promise<Facts> {
  const facts = new Facts();
  const stop = AbortSignal.timeout(WITHIN);
  const late = new Promise<void>((resolve) => stop.addEventListener('abort', () => resolve(), { once: true }));
  const all = needs.map(async (need) => {
    try {
      facts.put(need, (await factOf(need, sources, caller, stop)) as never);
    } catch {
      // What cannot be had is not there.
    }
  });
  await Promise.race([Promise.all(all), late]);
  return facts;
}

function factOf(need: Need, sources: Sources, caller: string, signal: AbortSignal) {
  switch (need.of) {
    case 'server':
      return serverFact(need.name, sources);
    case 'model':
      return modelFact(need.name, need.names === true, sources);
    case 'flow': {
      const flow = sources.flows.find(need.name);
      return { known: flow !== undefined && flow !== null, published: flow?.live ?? null };
    }
    case 'endpoint':
      return endpointFact(need.name, sources);
    case 'near':
      return nearFact(need.table, need.where, sources, caller, signal);
    case 'last_good':
      return undefined;
  }
}

async function serverFact(name: string, { servers, credentials }: Sources): Promise<ServerFact> {
  const { credential, where, speaks } = servers.summary(name);
  // What it has may have changed since: its list is read anew, as long as it answers.
  await servers.refresh(name).catch(() => {});
  const { tools, held = {} } = await servers.describe(name);
  return {
    ...{ known: true, address: where, transport: speaks, credential },
    secretOdd: oddity(credential, credentials),
    tools: tools.map((tool) => ({
      name: tool.name,
      description: tool.description ?? '',
      inputSchema: tool.inputSchema,
    })),
    held,
  };
}

async function endpointFact(name: string, { endpoints }: Sources) {
  return { tools: (await endpoints.exposures(name, 'live')).map((one) => one.name) };
}

async function modelFact(name: string, names: boolean, { models, credentials }: Sources): Promise<ModelFact> {
  const { model, credential, settings } = models.connection(name);
  const offers = names ? await models.offers(name).catch(() => null) : null;
  const context = typeof settings.context === 'number' ? settings.context : null;
  return { known: true, model, credential, secretOdd: oddity(credential, credentials), offers, context };
}

/** What is odd about a secret, without a character of it. */
function oddity(name: string | null, credentials: Sources['credentials']): string {
  if (name === null) return '';
  let secret: string;
  try {
    secret = credentials.value(name);
  } catch {
    return '';
  }
  if (/^(bearer|basic|token)\s+/i.test(secret))
    return `it begins with the word "${secret.split(/\s/)[0]}", which is added by itself`;
  if (/^\s|\s$/.test(secret)) return 'there are spaces or line breaks around it';
  if (/^(["'`]).*\1$/.test(secret)) return 'it stands in quotation marks';
  if (/^\$\{.*\}$|^<.*>$|^your[-_ ]/i.test(secret)) return 'it is a placeholder, not a key';
  return '';
}

const plain = (value: unknown) =>
  typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean'
    ? String(value).trim().replace(/\s+/g, ' ').toLowerCase()
    : null;

async function nearFact(
  table: string,
  where: JsonObject,
  { tables }: Sources,
  caller: string,
  signal: AbortSignal,
): Promise<NearFact> {
  const exact = Object.entries(where).filter(([, value]) => plain(value) !== null);
  const others = Object.fromEntries(Object.entries(where).filter(([, value]) => plain(value) === null));
  const operation = { do: 'find', table, where: [others], sort: null, descending: false, limit: ROWS };
  const { rows = [] } = (await tables.run(operation as never, { signal, caller } as never)) as { rows?: JsonObject[] };
  const near = rows.filter((row) => exact.every(([column, value]) => plain(row[column]) === plain(value)));
  const found = near.flatMap((row) =>
    exact
      .filter(([column, value]) => row[column] !== value)
      .slice(0, 1)
      .map(([column, value]) => ({ column, searched: value, has: row[column] ?? null })),
  );
  return { rows: found.slice(0, 5) };
}

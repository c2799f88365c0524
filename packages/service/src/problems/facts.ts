import type { TableOperation } from '@pindro/core';
import {
  type FactOf,
  Facts,
  type JsonObject,
  type ModelFact,
  type NearFact,
  type Need,
  needKey,
  type ServerFact,
} from '@pindro/core';
import type { Parts } from '../platform/capability.js';

/** So long it is waited for all facts together, in milliseconds: a run is explained without what takes longer. */
const WITHIN = 3000;
/** What tool servers and models said holds for so long, in milliseconds. */
const LATELY = 5000;
/** Maximum number of rows checked for near matches. */
const ROWS = 2000;

type Sources = Pick<Parts, 'servers' | 'models' | 'endpoints' | 'tables' | 'credentials'>;

/** Collects facts for rules. */
type Fact = FactOf[Need['of']];

export class FactGatherer {
  /** Recent facts about external services: many runs fail for the same server, which is not asked for each of them. */
  readonly #lately = new Map<string, { at: number; fact: Promise<Fact | undefined> }>();

  constructor(private readonly sources: Sources) {}

  /** @param caller on whose behalf the run happened: no fact tells more than they may see */
  async gather(needs: readonly Need[], caller: string): Promise<Facts> {
    const facts = new Facts();
    if (needs.length === 0) return facts;
    const stop = AbortSignal.timeout(WITHIN);
    const late = new Promise<void>((resolve) => stop.addEventListener('abort', () => resolve(), { once: true }));
    const all = needs.map(async (need) => {
      try {
        facts.put(need, await this.#factOf(need, caller));
      } catch {
        // What cannot be had is not there.
      }
    });
    await Promise.race([Promise.all(all), late]);
    return facts;
  }

  #factOf(need: Need, caller: string): Promise<Fact | undefined> {
    if (need.of === 'near') return nearFact(need.table, need.where, this.sources, caller);
    // Local facts are cheap and may just have changed.
    if (need.of !== 'server' && need.of !== 'model') return factOf(need, this.sources);
    const now = Date.now();
    for (const [key, { at }] of this.#lately) if (now - at > LATELY) this.#lately.delete(key);
    const known = this.#lately.get(needKey(need));
    if (known) return known.fact;
    const fact = factOf(need, this.sources);
    fact.catch(() => {});
    this.#lately.set(needKey(need), { at: now, fact });
    return fact;
  }
}

async function factOf(need: Exclude<Need, { of: 'near' }>, sources: Sources): Promise<Fact | undefined> {
  switch (need.of) {
    case 'server':
      return serverFact(need.name, need.way === true, sources);
    case 'model':
      return modelFact(need.name, need.names === true, sources);
    case 'endpoint':
      return endpointFact(need.name, sources);
    case 'credential':
      return sources.credentials.shape(need.name);
    case 'address':
      return { couldSend: couldSend(need.url, sources) };
  }
}

/** Credentials that are meant for an address, but for those that a server does not take just now. */
function couldSend(url: string, { servers, credentials }: Sources): string[] {
  const refused = servers.list().filter(({ state }) => state === 'refused');
  return credentials.meantFor(url).filter((name) => !refused.some(({ credential }) => credential === name));
}

async function serverFact(name: string, way: boolean, sources: Sources): Promise<ServerFact> {
  const { servers, credentials } = sources;
  const { credential, speaks, url } = servers.summary(name);
  // Its tools may have changed: the list is refreshed while it responds.
  await servers.refresh(name).catch(() => {});
  const { tools } = await servers.describe(name);
  return {
    transport: speaks,
    credential: credential === null ? null : credentials.shape(credential),
    couldSend: credential === null && url ? couldSend(url, sources) : [],
    ...(way && { speaksNow: await servers.speaksNow(name) }),
    tools: tools.map(({ name: tool, inputSchema }) => ({ name: tool, inputSchema })),
  };
}

async function endpointFact(name: string, { endpoints }: Sources) {
  const exposed = await endpoints.exposures(name, 'live');
  const returns = endpoints
    .served(name, 'live')
    .flatMap((one) => (one.returns ? [[one.name, one.returns] as const] : []));
  return { tools: exposed.map((one) => one.name), returns: Object.fromEntries(returns) };
}

async function modelFact(name: string, names: boolean, sources: Sources): Promise<ModelFact> {
  const { models, credentials } = sources;
  const { model, credential, base } = models.connection(name);
  const offers = names ? await models.offers(name).catch(() => null) : null;
  const own = credential === null ? null : credentials.shape(credential);
  return { model, credential: own, couldSend: own ? [] : couldSend(base, sources), offers };
}

const plain = (value: unknown) =>
  typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean'
    ? String(value).trim().replace(/\s+/g, ' ').toLowerCase()
    : null;

async function nearFact(table: string, where: JsonObject, { tables }: Sources, caller: string): Promise<NearFact> {
  const exact = Object.entries(where).filter(([, value]) => plain(value) !== null);
  const others = Object.fromEntries(Object.entries(where).filter(([, value]) => plain(value) === null));
  const operation: TableOperation = { do: 'find', table, where: [others], sort: null, descending: false, limit: ROWS };
  const { rows = [] } = (await tables.run(operation, { caller, key: '' })) as { rows?: JsonObject[] };
  const near = rows.filter((row) => exact.every(([column, value]) => plain(row[column]) === plain(value)));
  const found = near.flatMap((row) =>
    exact
      .filter(([column, value]) => row[column] !== value)
      .slice(0, 1)
      .map(([column, value]) => ({ column, searched: value, has: row[column] ?? null })),
  );
  return { rows: found.slice(0, 5) };
}

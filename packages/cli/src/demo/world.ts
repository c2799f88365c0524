import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import { createClient } from '@pindro/contract';
import { asPindroError } from '@pindro/core';
import type { Service } from '@pindro/service';
import { PROGRAMS } from '@pindro/standins';
import type { StandIns } from './standins.js';
import type { Kept } from './state.js';

const DEMO = new URL('../../demo/', import.meta.url);
const read = (path: string) => readFileSync(fileURLToPath(new URL(path, DEMO)), 'utf8');
export const WHOLESALER = '{{WHOLESALER}}';
const day = (ahead: number) => new Date(Date.now() + ahead * 86_400_000).toISOString().slice(0, 10);

const trails = () => ({ command: process.execPath, args: [PROGRAMS.trails], env: {} });

/** The trail report is a program of this machine, at another place where the code was moved. */
export async function attachTrails({ servers, host }: Service): Promise<void> {
  const program = trails();
  if (!servers.names().includes('trails')) {
    // Where no program may be run the demo does without.
    await servers.attach({ name: 'trails', url: '', program: () => program, rules: {}, by: host }).catch(() => {});
    // The person who starts the demo owns this machine, so a changed version of Node.js or the program is permitted again.
  } else await servers.change('trails', { program, skipTest: true, by: host }).catch(() => {});
}

/** Builds the made-up world: tables, tool server, model, flows, the endpoint, and keys for two wardens. */
export async function buildWorld(service: Service, standIns: StandIns, kept: Kept): Promise<void> {
  service.tables.definitions.create('huts', { name: 'text', warden: 'text', bunks: 'whole' });
  service.tables.definitions.create('bookings', { hut: 'text', night: 'date', party: 'whole', by: 'text' });
  for (const [name, warden, bunks] of [
    ['kestrel', 'ines', 24],
    ['larch', 'tobias', 16],
    ['stonewater', 'marit', 40],
  ] as const) {
    service.tables.rows.add({ table: 'huts', row: { name, warden, bunks }, unless: null });
  }
  await service.servers.attach({
    name: 'lift',
    url: standIns.lift.url,
    credential: null,
    secret: kept.liftKey,
    rules: {},
  });
  await attachTrails(service);
  service.credentials.add({
    name: 'wholesaler',
    kind: 'header',
    header: 'X-Wholesale-Key',
    account: 'Alder Ridge Huts',
    secret: kept.wholesalerKey,
  });
  await service.models.add({
    name: 'house',
    dialect: 'chat-completions',
    base: standIns.model.url,
    model: 'house-1',
    credential: null,
    settings: {},
  });
  const files = readdirSync(fileURLToPath(new URL('flows/', DEMO))).sort();
  // Flows name one another, the endpoint names flows, an agent names the endpoint: drafts first, then all go live.
  for (const file of files)
    await service.flows.drafts.saveDraft(
      file.replace('.yaml', ''),
      read(`flows/${file}`).replaceAll(WHOLESALER, standIns.wholesaler.url),
    );
  service.endpoints.save(read('endpoint-huts.yaml'));
  for (const file of files) service.flows.revisions.publish(file.replace('.yaml', ''));
  await service.documents.take({
    url: standIns.wholesaler.document,
    name: 'ridge',
    operations: ['listStock', 'placeOrder', 'getOrder'],
    credential: 'wholesaler',
  });
  for (const flow of ['ridge-list-stock', 'ridge-place-order', 'ridge-get-order'])
    service.flows.revisions.publish(flow);
  openWays(service);
  kept.keys = [
    { caller: 'ines', hut: 'kestrel' },
    { caller: 'tobias', hut: 'larch' },
  ].map(({ caller, hut }) => ({
    caller,
    key: service.keys.issue({
      name: `warden ${caller}`,
      caller,
      attributes: { hut },
      stage: 'live',
      endpoints: ['huts'],
      manage: false,
    }).key,
  }));
}

/** Entry points for people and programs without an access key. */
function openWays({ entries }: Service): void {
  type Settings = Parameters<typeof entries.add>[0]['settings'];
  // What is left out here has a default, which the store puts in.
  const add = (flow: string, settings: object) => entries.add({ flow, on: true, settings: settings as Settings });
  add('reserve-group', { kind: 'form', button: 'Reserve', message: 'Thank you. A confirmation is on its way.' });
  add('warden-desk', {
    kind: 'chat',
    title: "The warden's desk",
    greeting: 'Hello. Ask about bunks, or send a load up.',
  });
  add('bunk-availability', { kind: 'hook', methods: ['GET', 'POST'], guard: 'open' });
  add('month-report', { kind: 'schedule', cron: '0 6 1 * *', input: { month: day(0).slice(0, 7) } });
}

/**
 * Makes a few runs, some of which fail on purpose. One that cannot be made keeps nothing else from being there.
 * @returns the ones that could not be made, each with why
 */
export async function makeRuns(service: Service, apiKey: string, kept: Kept): Promise<string[]> {
  const api = createClient({ url: service.url, key: apiKey });
  const failed: string[] = [];
  const attempt = async (what: string, work: () => Promise<unknown>) => {
    try {
      await work();
    } catch (error) {
      failed.push(`${what}: ${asPindroError(error).message}`);
    }
  };
  const run = (name: string, input: object) =>
    attempt(`run of ${name}`, () => api.runFlow({ name, body: { input, stage: 'live' } }));
  const desk = (message: string, session: string) =>
    attempt('conversation with warden-desk', () =>
      api.runFlow({ name: 'warden-desk', body: { input: { message }, session, stage: 'live', entry: 'chat' } }),
    );
  await attempt('calls of ines', () =>
    withToolClient(service, kept.keys[0]!.key, async (client) => {
      await client.callTool({ name: 'reserve_bunks', arguments: { hut: 'kestrel', night: day(3), party: 6 } });
      await client.callTool({ name: 'bunk_availability', arguments: { hut: 'kestrel', night: day(3) } });
      // A warden's assistant forgot to say when.
      await client.callTool({ name: 'reserve_bunks', arguments: { hut: 'kestrel', party: 4 } });
    }),
  );
  await attempt('calls of tobias', () =>
    withToolClient(service, kept.keys[1]!.key, async (client) => {
      await client.callTool({ name: 'reserve_bunks', arguments: { hut: 'larch', night: day(5), party: 14 } });
      // Two bunks are left.
      await client.callTool({ name: 'reserve_bunks', arguments: { hut: 'larch', night: day(5), party: 5 } });
    }),
  );
  await run('reserve-group', { hut: 'stonewater', night: day(6), party: 12, contact: 'club@alder-ridge.example' });
  await run('order-provisions', { hut: 'kestrel', item: 'flour', quantity: 3, day: day(3) });
  await run('month-report', { month: day(3).slice(0, 7) });
  await desk(
    `Reserve 4 bunks in stonewater for ${day(4)} and send 120 kg of firewood up to stonewater on ${day(3)}.`,
    'marit-monday',
  );
  await desk(`How many bunks are free there on ${day(4)}?`, 'marit-monday');
  await run('send-load', { hut: 'larch', day: day(2), weight_kg: 180, goods: 'flour' });
  await run('send-load', { hut: 'kestrel', day: day(2), weight_kg: 400, goods: 'gas bottles' });
  return failed;
}

async function withToolClient(service: Service, key: string, work: (client: Client) => Promise<void>): Promise<void> {
  const client = new Client({ name: 'hut-tablet', version: '1.4.0' });
  const transport = new StreamableHTTPClientTransport(new URL(`${service.url}/mcp/huts`), {
    requestInit: { headers: { Authorization: `Bearer ${key}` } },
  });
  await client.connect(transport);
  try {
    await work(client);
  } finally {
    await transport.terminateSession().catch(() => {});
    await client.close();
  }
}

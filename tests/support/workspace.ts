import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import { type Client as ApiClient, createClient } from '@pindro/contract';
import { type Service, type SettingsInput, startService } from '@pindro/service';
import { type Lift, startLift } from '@pindro/standins';
import { patience } from './patience.js';

export const temporary = () => mkdtempSync(join(tmpdir(), 'pindro-test-'));
export const discard = (path: string) => rmSync(path, { recursive: true, force: true });
export const LIFT_KEY = 'ropeway-key-for-tests';

export interface Workspace {
  service: Service;
  api: ApiClient;
  data: string;
  apiKey: string;
  close(): Promise<void>;
}

/** A service on a free port with an empty workspace and a key for its API. */
export async function workspace(settings: Partial<SettingsInput> = {}): Promise<Workspace> {
  const data = settings.data ?? temporary();
  const service = await startService({ port: 0, logLevel: 'silent', timeZone: 'UTC', ...settings, data });
  const apiKey = service.keys.issue({
    name: 'test',
    caller: 'owner',
    attributes: {},
    stage: 'draft',
    endpoints: ['*'],
    manage: true,
  }).key;
  return {
    service,
    data,
    apiKey,
    api: createClient({ url: service.url, key: apiKey }),
    close: async () => {
      await service.close();
      if (!settings.data) discard(data);
    },
  };
}

export const RESERVE = `
format: pindro/flow@1
name: reserve-bunks
title: Reserve bunks
description: Reserve bunks in one hut for one night.
input:
  type: object
  required: [hut, night, party]
  properties:
    hut: { type: string, enum: [kestrel, larch] }
    night: { type: string, format: date, description: First night of the stay }
    party: { type: integer, minimum: 1, maximum: 40 }
steps:
  place:
    kind: table
    with: { table: huts, do: find, where: { name: "\${ input.hut }" }, limit: 1 }
  book:
    kind: table
    after: [place]
    with:
      table: bookings
      do: add
      row: { hut: "\${ input.hut }", night: "\${ input.night }", party: "\${ input.party }", by: "\${ caller.id }" }
      unless: { sum: party, where: { hut: "\${ input.hut }", night: "\${ input.night }" }, over: "\${ steps.place.rows[0].bunks - input.party }" }
  full:
    kind: stop
    after: [book.refused]
    with: { as: failed, message: "\${ input.hut } has no room for \${ input.party } on \${ input.night }" }
result: "\${ steps.book.row }"
`;

/** The huts' tables, a reserving flow, and an endpoint with it. @returns keys for two wardens */
export function furnish({ tables, flows, endpoints, keys }: Service): { ines: string; tobias: string } {
  tables.definitions.create('huts', { name: 'text', bunks: 'whole' });
  tables.definitions.create('bookings', { hut: 'text', night: 'date', party: 'whole', by: 'text' });
  tables.rows.add({ table: 'huts', row: { name: 'kestrel', bunks: 24 }, unless: null });
  tables.rows.add({ table: 'huts', row: { name: 'larch', bunks: 16 }, unless: null });
  flows.drafts.save(RESERVE);
  flows.revisions.publish('reserve-bunks');
  endpoints.save(
    'format: pindro/endpoint@1\nname: huts\ntitle: Huts\ninstructions: Ask for the hut.\ntools:\n  reserve_bunks: { flow: reserve-bunks }\n',
  );
  const keyFor = (caller: string, hut: string) =>
    keys.issue({ name: caller, caller, attributes: { hut }, stage: 'live', endpoints: ['huts'], manage: false }).key;
  return { ines: keyFor('ines', 'kestrel'), tobias: keyFor('tobias', 'larch') };
}

/** A standard MCP client, connected to an endpoint. */
export async function connect(service: Pick<Service, 'url'>, key: string, endpoint = 'huts'): Promise<Client> {
  const client = new Client({ name: 'test-client', version: '1.0.0' });
  const transport = new StreamableHTTPClientTransport(new URL(`${service.url}/mcp/${endpoint}`), {
    requestInit: { headers: { Authorization: `Bearer ${key}` } },
  });
  await client.connect(transport);
  return client;
}

export interface ToolAnswer {
  isError?: boolean;
  content: { type: string; text: string }[];
  structuredContent?: Record<string, unknown>;
  _meta?: Record<string, unknown>;
}
export const callTool = async (client: Client, name: string, args: Record<string, unknown>) =>
  (await client.callTool({ name, arguments: args })) as unknown as ToolAnswer;
export const startTestLift = (options: Partial<Parameters<typeof startLift>[0]> = {}): Promise<Lift> =>
  startLift({ key: LIFT_KEY, ...options });

/** Waits until something holds, looking often. */
export async function until<T>(
  look: () => T | Promise<T>,
  what: string,
  limit = 8000,
): Promise<NonNullable<Awaited<T>>> {
  let end = Date.now() + limit;
  let patient = false;
  for (;;) {
    const seen = await look();
    if (seen) return seen as NonNullable<Awaited<T>>;
    if (Date.now() > end) {
      if (patient) throw new Error(`waited ${limit} ms in vain for ${what}`);
      patient = true;
      end += patience(limit) - limit;
    }
    await new Promise((resolve) => setTimeout(resolve, 25));
  }
}

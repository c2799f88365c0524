import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { PindroError } from '@pindro/core';
import { buildApp, buildMcp } from './app.js';
import { type House, openHouse } from './house.js';
import { takeDataDirectory } from './platform/data-directory.js';
import { Bus } from './platform/events.js';
import { createLog } from './platform/log.js';
import { readSettings, type SettingsInput } from './platform/settings.js';

/** How long answers may take to leave once everything else has ended, in milliseconds. */
const FAREWELL = 300;

export interface Service
  extends Pick<
    House,
    'flows' | 'endpoints' | 'servers' | 'models' | 'tables' | 'keys' | 'credentials' | 'entries' | 'documents'
  > {
  /** Where it listens, or the public address where one is set. */
  readonly url: string;
  /** A one-time link that opens the console. */
  signInLink(): string;
  bus: Bus;
  close(): Promise<void>;
}

/** Starts the service. @throws data_directory, port_taken */
export async function startService(given: SettingsInput): Promise<Service> {
  const settings = readSettings(given);
  const giveBack = takeDataDirectory(settings.data);
  const log = createLog(settings.logLevel);
  const bus = new Bus();
  let url = '';
  const address = () => settings.publicUrl?.replace(/\/+$/, '') ?? url;
  const house = openHouse(settings, bus, address);
  const around = { house, settings, bus, log, address };
  const app = buildApp(around);
  const mcp = buildMcp(around);
  const limits = { requestTimeout: 60_000, headersTimeout: 20_000, keepAliveTimeout: 65_000 };
  const server = createServer(limits, (request, response) => {
    if (!mcp(request, response)) app(request, response);
  });
  try {
    url = await listen(server, settings.host, settings.port);
  } catch (error) {
    await house.settle();
    house.close();
    giveBack();
    throw error;
  }
  house.servers.start();
  house.resume();
  house.scheduler.start();

  const { flows, endpoints, servers, models, tables, keys, credentials, people, entries, documents } = house;
  return {
    get url() {
      return address();
    },
    signInLink: () => `${address()}/sign-in?code=${people.newCode()}`,
    bus,
    flows,
    endpoints,
    servers,
    models,
    tables,
    keys,
    credentials,
    entries,
    documents,
    close: async () => {
      const closed = new Promise((resolve) => server.close(resolve));
      await house.settle();
      server.closeIdleConnections();
      // What has just been answered may still be on its way out; streams that never end are then cut.
      await Promise.race([closed, new Promise((resolve) => setTimeout(resolve, FAREWELL))]);
      server.closeAllConnections();
      await closed;
      house.close();
      giveBack();
    },
  };
}

function listen(server: Server, host: string, port: number): Promise<string> {
  return new Promise((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) =>
      reject(error.code === 'EADDRINUSE' ? new PindroError('port_taken', { host, port }) : error),
    );
    server.listen(port, host, () => {
      const { port: taken } = server.address() as AddressInfo;
      resolve(`http://${host.includes(':') ? `[${host}]` : host}:${taken}`);
    });
  });
}

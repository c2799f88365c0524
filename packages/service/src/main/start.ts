import { Masker, reportUnforeseen, useHardStop } from '@pindro/core';
import type { CredentialStore } from '../credentials/store.js';
import type { DocumentStore } from '../documents/store.js';
import type { EndpointStore } from '../endpoints/store.js';
import type { EntryStore } from '../entries/store.js';
import type { FlowStore } from '../flows/store.js';
import type { KeyStore } from '../keys/store.js';
import type { ModelStore } from '../models/store.js';
import type { Capability, Parts } from '../platform/capability.js';
import { takeDataDirectory } from '../platform/data-directory.js';
import { Bus } from '../platform/events.js';
import { stopByClock } from '../platform/hard-stop.js';
import { createLog } from '../platform/log.js';
import { loggable } from '../platform/problems.js';
import { readSettings, type SettingsInput } from '../platform/settings.js';
import type { ServerStore } from '../servers/store.js';
import type { TableStore } from '../tables/store.js';
import { CAPABILITIES } from './capabilities.js';

export interface Service {
  bus: Bus;
  flows: FlowStore;
  endpoints: EndpointStore;
  servers: ServerStore;
  models: ModelStore;
  tables: TableStore;
  keys: KeyStore;
  credentials: CredentialStore;
  entries: EntryStore;
  documents: DocumentStore;
  /** Where it listens, or the public address where one is set. */
  readonly url: string;
  /** A one-time link that opens the console. */
  signInLink(): string;
  close(): Promise<void>;
}

/** Starts the service. @throws data_directory, port_taken */
export async function startService(given: SettingsInput): Promise<Service> {
  useHardStop(stopByClock);
  const settings = readSettings(given);
  const giveBack = takeDataDirectory(settings.data);
  const address = () => settings.publicUrl?.replace(/\/+$/, '') ?? parts.http.url;
  const masker = new Masker();
  if (settings.secretKey) masker.add(settings.secretKey);
  const mailPassword = settings.smtp && decodeURIComponent(new URL(settings.smtp).password);
  if (mailPassword) masker.add(mailPassword);
  const log = createLog(settings.logLevel, masker);
  reportUnforeseen((thrown, reference) => log.error({ ...loggable(thrown), reference }, 'unforeseen error'));
  // Each capability adds what it makes; see there.
  const parts = { settings, bus: new Bus(), log, masker, address } as Parts;
  const opened: Capability[] = [];
  const close = async () => {
    parts.http?.refuseNew();
    for (const capability of opened.toReversed()) await capability.close?.(parts);
    giveBack();
  };
  try {
    for (const capability of CAPABILITIES) {
      Object.assign(parts, capability.open?.(parts));
      opened.push(capability);
    }
    await parts.http.listen(parts, CAPABILITIES);
    for (const capability of CAPABILITIES) await capability.listen?.(parts);
  } catch (error) {
    await close();
    throw error;
  }
  const { bus, flows, endpoints, servers, models, tables, keys, credentials, people, entries, documents } = parts;
  return {
    get url() {
      return address();
    },
    signInLink: () => `${address()}/sign-in?code=${people.newCode()}`,
    ...{ bus, flows, endpoints, servers, models, tables, keys, credentials, entries, documents },
    close,
  };
}

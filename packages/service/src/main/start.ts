import { Masker, reportUnforeseen, useForeseen, useHardStop, withoutEnd } from '@pindro/core';
import { keepTakenAway } from '../backups/reactivation.js';
import { putInPlace } from '../backups/store.js';
import type { CredentialStore } from '../credentials/store.js';
import type { DocumentStore } from '../documents/store.js';
import type { EndpointStore } from '../endpoints/store.js';
import type { EntryStore } from '../entries/store.js';
import type { FlowStore } from '../flows/store.js';
import { HostKeys } from '../keys/store.js';
import type { ModelStore } from '../models/store.js';
import type { Capability } from '../platform/capability.js';
import { takeDataDirectory } from '../platform/data-directory.js';
import { storageFailure } from '../platform/database/failure.js';
import { Bus } from '../platform/events.js';
import { stopByClock } from '../platform/hard-stop.js';
import { createLog } from '../platform/log.js';
import { loggable } from '../platform/problems.js';
import { ResourceRegistry } from '../platform/resources.js';
import { readSettings, type SettingsInput } from '../platform/settings.js';
import { type Authority, HOST } from '../policy/authority.js';
import type { ServerStore } from '../servers/store.js';
import type { TableStore } from '../tables/store.js';
import { CAPABILITIES } from './capabilities.js';
import { PartsRegistry } from './parts.js';

export interface Service {
  bus: Bus;
  flows: FlowStore;
  endpoints: EndpointStore;
  servers: ServerStore;
  models: ModelStore;
  tables: TableStore;
  keys: HostKeys;
  /** The authority of the process that started the service: what an owner may do. */
  readonly host: Authority;
  credentials: CredentialStore;
  entries: EntryStore;
  documents: DocumentStore;
  /** Where it listens, or the public address where one is set. */
  readonly url: string;
  /** A one-time link that opens the console. */
  createSignInLink(): string;
  /** Called after each restart caused by a restore, with the new parts. */
  onceAgain(listener: () => void): void;
  close(): Promise<void>;
}

/** Starts the service. @throws data_directory, port_taken */
export async function startService(given: SettingsInput): Promise<Service> {
  let running = await open(given);
  const listeners: (() => void)[] = [];
  let closed = false;
  let restoring: Promise<void> = Promise.resolve();
  /** Restores a folder: the service stops, its files are replaced, and it starts again on the same port. */
  const restore = async (folder: string, before: string, reactivate: boolean): Promise<void> => {
    const { parts } = running;
    const [log, settings, http] = [parts.get('log'), parts.get('settings'), parts.get('http')];
    const port = Number(new URL(http.url).port);
    await running.close();
    // A close during the restart waits for it, and then closes.
    if (closed) return;
    putInPlace(settings.data, folder);
    try {
      if (!reactivate) keepTakenAway(settings.data, before);
      running = await open({ ...given, port });
    } catch (error) {
      log.error(
        { error: (error as Error).message, folder },
        'the backup cannot be used; the previous state was restored',
      );
      putInPlace(settings.data, before);
      running = await open({ ...given, port });
    }
    watch();
    for (const listener of listeners) listener();
  };
  const watch = () =>
    running.parts.get('bus').once('restore', (folder, before, reactivate) => {
      restoring = restore(folder, before, reactivate).catch((error: unknown) => {
        running.parts.get('log').fatal({ error: (error as Error).message }, 'the service could not restart');
        process.exit(1);
      });
    });
  watch();
  const own = {
    host: HOST,
    createSignInLink: () => `${running.parts.get('address')()}/sign-in?code=${running.parts.get('people').newCode()}`,
    onceAgain: (listener: () => void) => void listeners.push(listener),
    close: async () => {
      closed = true;
      await restoring;
      await running.close();
    },
  };
  // Whoever asks for a part gets that of whichever is running now.
  Object.defineProperty(own, 'url', { get: () => running.parts.get('address')() });
  Object.defineProperty(own, 'keys', { get: () => new HostKeys(running.parts.get('keys')) });
  for (const part of PARTS) Object.defineProperty(own, part, { get: () => running.parts.get(part) });
  return own as Service;
}

/** What a service hands out of its parts. */
const PARTS = [
  ...(['bus', 'flows', 'endpoints', 'servers', 'models'] as const),
  ...(['tables', 'credentials', 'entries', 'documents'] as const),
];

interface Running {
  parts: PartsRegistry;
  close(): Promise<void>;
}

async function open(given: SettingsInput): Promise<Running> {
  useHardStop(stopByClock);
  const settings = readSettings(given);
  const giveBack = takeDataDirectory(settings.data);
  const address = () =>
    settings.publicUrl === undefined ? (parts.find('http')?.url ?? '') : withoutEnd(settings.publicUrl, '/');
  const masker = new Masker();
  if (settings.secretKey) masker.add(settings.secretKey);
  const mailPassword = settings.smtp && decodeURIComponent(new URL(settings.smtp).password);
  if (mailPassword) masker.add(mailPassword);
  const log = createLog(settings.logLevel, masker);
  useForeseen(storageFailure);
  reportUnforeseen((thrown, reference) => log.error({ ...loggable(thrown), reference }, 'unexpected error'));
  const parts = new PartsRegistry({
    ...{ settings, bus: new Bus(), log, masker, address },
    resources: new ResourceRegistry(),
  });
  const opened: Capability[] = [];
  let closing: Promise<void> | null = null;
  const closeAll = async () => {
    parts.find('http')?.refuseNew();
    for (const capability of opened.toReversed()) await capability.close?.(parts.for(capability));
    giveBack();
  };
  const close = () => {
    closing ??= closeAll();
    return closing;
  };
  try {
    for (const capability of CAPABILITIES) {
      parts.open(capability);
      opened.push(capability);
    }
    for (const capability of CAPABILITIES)
      parts.get('resources').add(capability.resources?.(parts.for(capability)) ?? []);
    await parts.get('http').listen(parts, CAPABILITIES);
    for (const capability of CAPABILITIES) await capability.listen?.(parts.for(capability));
  } catch (error) {
    await close();
    throw error;
  }
  return { parts, close };
}

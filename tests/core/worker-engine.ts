import { parentPort } from 'node:worker_threads';
import { asPindroError, PindroError, type Ports, requireFlow, runFlow } from '@pindro/core';

/*
 * The engine in a thread of its own, unchanged. Every port is a message to the other side; what comes back is JSON.
 */
const other = parentPort!;
let last = 0;
const open = new Map<
  number,
  { resolve: (value: never) => void; reject: (error: unknown) => void; onPiece?: (piece: string) => void }
>();

/** Asks the other side; an abort goes over as a message of its own. */
function ask(
  port: string,
  args: unknown[],
  options: { signal?: AbortSignal; onPiece?: (piece: string) => void } = {},
): Promise<never> {
  const id = ++last;
  options.signal?.addEventListener('abort', () => other.postMessage({ type: 'abort', id }), { once: true });
  return new Promise((resolve, reject) => {
    open.set(id, { resolve, reject, ...(options.onPiece && { onPiece: options.onPiece }) });
    other.postMessage({ type: 'ask', id, port, args });
  });
}

const ports: Ports = {
  fetch: (request, options) => ask('fetch', [request], options),
  tables: { run: (operation, { signal, ...rest }) => ask('tables.run', [operation, rest], { signal }) },
  toolServers: {
    describe: (server, options) => ask('toolServers.describe', [server], options),
    call: (server, tool, args, { signal, ...rest }) => ask('toolServers.call', [server, tool, args, rest], { signal }),
  },
  flows: { load: (name, stage, revision) => ask('flows.load', [name, stage, revision]) },
  endpoints: { exposures: (name, stage) => ask('endpoints.exposures', [name, stage]) },
  models: { connection: (name) => ask('models.connection', [name]) },
  memory: {
    open: (key, options) => ask('memory.open', [key], options),
    save: (key, turns) => ask('memory.save', [key, turns]),
    release: (key) => ask('memory.release', [key]),
  },
  secrets: { reveal: (name) => ask('secrets.reveal', [name]) },
  clock: { now: () => ask('clock.now', []), zone: () => ask('clock.zone', []) },
  mail: { send: (mail, options) => ask('mail.send', [mail], options) },
  scripts: { run: (script, options) => ask('scripts.run', [script], options) },
  approvals: { ask: (request, options) => ask('approvals.ask', [request], options) },
  stepping: { before: (place, options) => ask('stepping.before', [place], options) },
  record: {
    read: (run) => ask('record.read', [run]),
    append: (event) => other.postMessage({ type: 'append', event }),
    commit: (run) => ask('record.commit', [run]),
  },
  watch: { show: (event) => other.postMessage({ type: 'show', event }) },
};

const stop = new AbortController();
other.on('message', (message) => {
  if (message.type === 'piece') open.get(message.id)?.onPiece?.(message.piece);
  if (message.type === 'answer') open.get(message.id)?.resolve(message.value as never);
  if (message.type === 'refusal') open.get(message.id)?.reject(PindroError.from(message.error));
  if (message.type === 'stop') stop.abort();
  if (message.type === 'run') {
    const { document, ...request } = message.request;
    runFlow({ ...request, document: requireFlow(document) }, ports, stop.signal).then(
      (outcome) => other.postMessage({ type: 'outcome', outcome }),
      (error) => other.postMessage({ type: 'crash', error: asPindroError(error).toRecord() }),
    );
  }
});

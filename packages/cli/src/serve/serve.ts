import { type Service, startService } from '@pindro/service';
import pc from 'picocolors';
import { safe } from '../output/safe.js';
import { keepConnection, keptKey, settingsFileFor } from '../settings.js';
import { type ServeOptions, serviceSettings } from './options.js';

/** Starts the service and stays until it is interrupted. */
export async function serve(options: ServeOptions): Promise<void> {
  keepToOneself();
  const service = await startService(serviceSettings(options));
  const key = commandLineKey(service, options.data);
  const signIn = service.createSignInLink();
  if (options.json) process.stdout.write(`${JSON.stringify({ url: service.url, signIn, apiKey: key })}\n`);
  else {
    // What goes into a file or the log of a supervisor holds no link that signs in.
    const link = process.stdout.isTTY ? signIn : `${service.url}  (sign in with "pindro sign-in")`;
    const lines = [
      `${pc.green('✓')} Pindro is running at ${pc.bold(service.url)}`,
      `  console   ${link}`,
      `  settings  ${settingsFileFor(options.data)} (address and key for commands)`,
      pc.dim('  Press Ctrl-C to stop. Calls appear below.'),
    ];
    process.stdout.write(`${lines.join('\n')}\n\n`);
    showCalls(service);
  }
  service.onceAgain(() => {
    // The restored workspace may not know the key of the command line.
    commandLineKey(service, options.data);
    if (!options.json) showCalls(service);
  });
  stopOnSignal(() => service.close());
}

/** Whatever is written from here on, by this process and those it starts, is for this user alone. */
export const keepToOneself = (): void => void process.umask(0o077);

/** The key that the command line uses, made at the first start and kept in the settings file. */
export function commandLineKey(service: Service, data: string): string {
  const file = settingsFileFor(data);
  const kept = keptKey(file);
  const works = kept !== undefined && isGood(service, kept);
  const key = works
    ? kept
    : service.keys.issue({
        name: 'command line',
        caller: 'owner',
        attributes: {},
        stage: 'draft',
        endpoints: ['*'],
        manage: true,
      }).key;
  keepConnection(file, localAddress(service.url), key);
  return key;
}

/** Where this machine reaches the service: a service that listens everywhere is at its loopback address too. */
export const localAddress = (url: string): string =>
  url.replace(/^(https?:\/\/)(?:0\.0\.0\.0|\[::\])(?=[:/]|$)/, '$1127.0.0.1');

export function isGood(service: Service, key: string): boolean {
  try {
    return service.keys.present(`Bearer ${key}`).id !== '';
  } catch {
    return false;
  }
}

/** One readable line for every call as it happens. */
export function showCalls(service: Service): void {
  service.bus.on('line', (text) =>
    process.stdout.write(`${pc.dim(new Date().toTimeString().slice(0, 8))}  ${safe(text)}\n`),
  );
  service.bus.on('run', (run) => {
    if (run.endedAt === null || run.parentRun !== null || run.entry === 'tool') return;
    process.stdout.write(
      `${pc.dim(new Date().toTimeString().slice(0, 8))}  ${run.flow}  ${run.caller}  ${run.state} in ${Date.parse(run.endedAt) - Date.parse(run.startedAt)} ms${run.error ? `  ${run.error.message}` : ''}\n`,
    );
  });
}

/** Closes at the first interrupt and gives up at the second. */
export function stopOnSignal(close: () => Promise<void>): void {
  let stopping = false;
  const stop = () => {
    if (stopping) process.exit(1);
    stopping = true;
    close().then(
      () => process.exit(0),
      () => process.exit(1),
    );
  };
  process.on('SIGINT', stop);
  process.on('SIGTERM', stop);
}

import { type Service, startService } from '@pindro/service';
import type { Command } from 'commander';
import pc from 'picocolors';
import { report } from '../context.js';
import { keepConnection, keptKey, settingsFileFor } from '../settings.js';
import { type ServeOptions, serveOptions, serviceSettings } from './options.js';

export function serveCommand(program: Command): void {
  serveOptions(program.command('serve').description('starts the service'), '.pindro/data').action(
    async (_given: unknown, command: Command) => {
      const options = command.optsWithGlobals() as ServeOptions;
      try {
        const service = await startService(serviceSettings(options));
        const key = commandLineKey(service, options.data);
        if (options.json)
          process.stdout.write(`${JSON.stringify({ url: service.url, signIn: service.signInLink(), apiKey: key })}\n`);
        else {
          process.stdout.write(
            `${pc.green('✓')} Pindro answers at ${pc.bold(service.url)}\n  console   ${service.signInLink()}\n  commands  settings and key are in ${settingsFileFor(options.data)}\n  Ctrl-C stops it. Calls show up below as they happen.\n\n`,
          );
          showCalls(service);
        }
        stopOnSignal(() => service.close());
      } catch (error) {
        process.exitCode = report(error, options.json === true);
      }
    },
  );
}

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
  keepConnection(file, service.url, key);
  return key;
}

export function isGood(service: Service, key: string): boolean {
  try {
    return service.keys.present(`Bearer ${key}`).id !== '';
  } catch {
    return false;
  }
}

/** One readable line for every call as it happens. */
export function showCalls(service: Service): void {
  service.bus.on('line', (text) => process.stdout.write(`${pc.dim(new Date().toTimeString().slice(0, 8))}  ${text}\n`));
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

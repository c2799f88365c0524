import { fileURLToPath } from 'node:url';
import { type Command, InvalidArgumentError, Option } from '@commander-js/extra-typings';
import { DURATION, milliseconds } from '@pindro/core/browser';
import type { SettingsInput } from '@pindro/service';

export interface ServeOptions {
  data: string;
  host: string;
  port: number;
  publicUrl?: string;
  bodyLimit?: number;
  runsAtOnce?: number;
  runsQueued?: number;
  keepDays?: number;
  keepFailedDays?: number;
  keepSize?: number;
  trustProxy?: string[];
  reach?: string[];
  programs?: string[];
  refreshEvery?: number;
  proxy?: string;
  backups?: string;
  timeZone?: string;
  smtp?: string;
  mailFrom?: string;
  problemsTo?: string;
  openToAll?: boolean;
  logLevel: 'silent' | 'error' | 'warn' | 'info' | 'debug';
  json?: boolean;
}

const SIZES = { '': 1, k: 1024, m: 1024 ** 2, g: 1024 ** 3 } as const;

function size(text: string): number {
  const match = /^(\d+)([kmg]?)$/i.exec(text);
  if (!match) throw new InvalidArgumentError('Use a size such as 500k, 8m or 2g.');
  return Number(match[1]) * SIZES[match[2]!.toLowerCase() as keyof typeof SIZES];
}

function count(text: string): number {
  const value = Number(text);
  if (!Number.isFinite(value) || value < 0) throw new InvalidArgumentError('Use a number from 0.');
  return value;
}

function span(text: string): number {
  if (!DURATION.test(text)) throw new InvalidArgumentError('Use a duration such as 30s or 10m.');
  return milliseconds(text);
}

/** Several may be given at once, with commas, and the option more than once. */
const list = (text: string, before: string[] = []): string[] => [
  ...before,
  ...text.split(',').map((one) => one.trim()),
];

function port(text: string): number {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 0 || value > 65_535)
    throw new InvalidArgumentError('Use a port from 0 to 65535.');
  return value;
}

/** The options that `serve` and `demo` share; each has an environment variable. */
export function serveOptions(command: Command, data: string): Command {
  return command
    .addOption(new Option('--data <dir>', 'data directory').env('PINDRO_DATA').default(data))
    .addOption(
      new Option('--backups <dir>', 'directory for backups; "backups" in the data directory by default').env(
        'PINDRO_BACKUPS',
      ),
    )
    .addOption(new Option('--host <address>', 'address to listen on').env('PINDRO_HOST').default('127.0.0.1'))
    .addOption(
      new Option('--port <number>', 'port to listen on; 0 chooses a free one')
        .env('PINDRO_PORT')
        .argParser(port)
        .default(7377),
    )
    .addOption(new Option('--public-url <address>', 'public address of the service').env('PINDRO_PUBLIC_URL'))
    .addOption(
      new Option(
        '--open-to-all',
        'lets open endpoints answer other machines without a key; anybody who reaches them may call',
      ).env('PINDRO_OPEN_TO_ALL'),
    )
    .addOption(new Option('--body-limit <size>', 'maximum body size').env('PINDRO_BODY_LIMIT').argParser(size))
    .addOption(
      new Option('--runs-at-once <number>', 'maximum number of runs in progress')
        .env('PINDRO_RUNS_AT_ONCE')
        .argParser(count),
    )
    .addOption(
      new Option('--runs-queued <number>', 'maximum number of queued runs').env('PINDRO_RUNS_QUEUED').argParser(count),
    )
    .addOption(
      new Option('--keep-days <number>', 'retention of successful runs; 30 by default')
        .env('PINDRO_KEEP_DAYS')
        .argParser(count),
    )
    .addOption(
      new Option('--keep-failed-days <number>', 'retention of failed runs; 90 by default')
        .env('PINDRO_KEEP_FAILED_DAYS')
        .argParser(count),
    )
    .addOption(
      new Option('--keep-size <size>', 'maximum size of recorded runs; 2g by default')
        .env('PINDRO_KEEP_SIZE')
        .argParser(size),
    )
    .addOption(
      new Option('--trust-proxy <addresses>', 'trusted proxies, whose forwarding headers are used')
        .env('PINDRO_TRUST_PROXY')
        .argParser(list),
    )
    .addOption(
      new Option('--reach <addresses>', 'private addresses, networks or host names that flows and servers may reach')
        .env('PINDRO_REACH')
        .argParser(list),
    )
    .addOption(
      new Option(
        '--programs <commands>',
        'programs that may run as tool servers, "any" or "none"; by default any if only this machine has access',
      )
        .env('PINDRO_PROGRAMS')
        .argParser(list),
    )
    .addOption(
      new Option('--refresh-every <duration>', 'how often tool servers are checked for changed tools; 10m by default')
        .env('PINDRO_REFRESH_EVERY')
        .argParser(span),
    )
    .addOption(new Option('--proxy <address>', 'proxy for connections of flows and servers').env('PINDRO_PROXY'))
    .addOption(new Option('--smtp <address>', 'mail server for mails of flows: smtp://HOST:PORT').env('PINDRO_SMTP'))
    .addOption(
      new Option(
        '--problems-to <address>',
        'recipient of problem notifications: mailto:ADDRESS, or the address of a webhook',
      ).env('PINDRO_PROBLEMS_TO'),
    )
    .addOption(new Option('--mail-from <address>', 'default sender of mails').env('PINDRO_MAIL_FROM'))
    .addOption(new Option('--time-zone <name>', 'time zone of clock.today').env('PINDRO_TIME_ZONE'))
    .addOption(
      new Option('--log-level <level>', 'log level for standard error')
        .env('PINDRO_LOG_LEVEL')
        .choices(['silent', 'error', 'warn', 'info', 'debug'])
        .default('warn'),
    );
}

/** The encryption key comes from the environment or a file, never from the command line, which others can read. */
export function serviceSettings(options: ServeOptions): SettingsInput {
  const { data, host, port, publicUrl, bodyLimit, timeZone, logLevel, smtp, mailFrom, problemsTo, openToAll } = options;
  const {
    runsAtOnce,
    runsQueued,
    keepDays,
    keepFailedDays,
    keepSize,
    trustProxy,
    reach,
    programs,
    refreshEvery,
    proxy,
  } = options;
  return {
    data,
    host,
    port,
    logLevel,
    console: fileURLToPath(new URL('../../../console/dist', import.meta.url)),
    command: [process.execPath, fileURLToPath(new URL('../../bin/pindro.js', import.meta.url))],
    ...(openToAll && { openToAll }),
    ...(publicUrl && { publicUrl }),
    ...(bodyLimit && { bodyLimit }),
    ...(runsAtOnce !== undefined && { runsAtOnce }),
    ...(runsQueued !== undefined && { runsQueued }),
    ...(keepDays !== undefined && { keepDays }),
    ...(keepFailedDays !== undefined && { keepFailedDays }),
    ...(keepSize !== undefined && { keepBytes: keepSize }),
    ...(trustProxy && { trustedProxies: trustProxy }),
    ...(reach && { reach }),
    ...(programs && { programs }),
    ...(refreshEvery && { refreshEvery }),
    ...(proxy && { proxy }),
    ...(options.backups && { backups: options.backups }),
    ...(timeZone && { timeZone }),
    ...(smtp && { smtp }),
    ...(mailFrom && { mailFrom }),
    ...(problemsTo && { problemsTo }),
    ...(process.env.PINDRO_SECRET_KEY && { secretKey: process.env.PINDRO_SECRET_KEY }),
  };
}

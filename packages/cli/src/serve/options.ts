import { fileURLToPath } from 'node:url';
import type { SettingsInput } from '@pindro/service';
import { type Command, InvalidArgumentError, Option } from 'commander';

export interface ServeOptions {
  data: string;
  host: string;
  port: number;
  publicUrl?: string;
  bodyLimit?: number;
  timeZone?: string;
  smtp?: string;
  mailFrom?: string;
  openToAll?: boolean;
  logLevel: 'silent' | 'error' | 'warn' | 'info' | 'debug';
  json?: boolean;
}

const SIZES = { '': 1, k: 1024, m: 1024 * 1024 } as const;

function size(text: string): number {
  const match = /^(\d+)([km]?)$/i.exec(text);
  if (!match) throw new InvalidArgumentError('Write a size such as 500k or 8m.');
  return Number(match[1]) * SIZES[match[2]!.toLowerCase() as keyof typeof SIZES];
}

function port(text: string): number {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 0 || value > 65_535)
    throw new InvalidArgumentError('It must be a port from 0 to 65535.');
  return value;
}

/** The options that `serve` and `demo` share; each has an environment variable. */
export function serveOptions(command: Command, data: string): Command {
  return command
    .addOption(new Option('--data <dir>', 'directory that holds everything').env('PINDRO_DATA').default(data))
    .addOption(new Option('--host <address>', 'address to listen on').env('PINDRO_HOST').default('127.0.0.1'))
    .addOption(
      new Option('--port <number>', 'port to listen on; 0 takes a free one')
        .env('PINDRO_PORT')
        .argParser(port)
        .default(7377),
    )
    .addOption(
      new Option('--public-url <address>', 'address under which others reach the service').env('PINDRO_PUBLIC_URL'),
    )
    .addOption(
      new Option(
        '--open-to-all',
        'lets open endpoints answer without a key to other machines too; anybody who reaches them may call',
      ).env('PINDRO_OPEN_TO_ALL'),
    )
    .addOption(new Option('--body-limit <size>', 'largest body taken').env('PINDRO_BODY_LIMIT').argParser(size))
    .addOption(new Option('--smtp <address>', 'mail server for mails of flows: smtp://HOST:PORT').env('PINDRO_SMTP'))
    .addOption(new Option('--mail-from <address>', 'sender of mails that name none').env('PINDRO_MAIL_FROM'))
    .addOption(new Option('--time-zone <name>', 'time zone of clock.today').env('PINDRO_TIME_ZONE'))
    .addOption(
      new Option('--log-level <level>', 'what is logged to standard error')
        .env('PINDRO_LOG_LEVEL')
        .choices(['silent', 'error', 'warn', 'info', 'debug'])
        .default('warn'),
    );
}

/** The key that seals credentials comes by the environment or a file, never by the command line, which others can see. */
export function serviceSettings(options: ServeOptions): SettingsInput {
  const { data, host, port, publicUrl, bodyLimit, timeZone, logLevel, smtp, mailFrom, openToAll } = options;
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
    ...(timeZone && { timeZone }),
    ...(smtp && { smtp }),
    ...(mailFrom && { mailFrom }),
    ...(process.env.PINDRO_SECRET_KEY && { secretKey: process.env.PINDRO_SECRET_KEY }),
  };
}

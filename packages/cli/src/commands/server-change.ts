import { readFileSync } from 'node:fs';
import { type CommandUnknownOpts, InvalidArgumentError, Option } from '@commander-js/extra-typings';
import type { Client, Program, ServerLimits, ServerNetwork } from '@pindro/contract';
import { parseArgsStringToArgv as words } from 'string-argv';
import { usage } from '../usage.js';

type Pairs = Record<string, string>;
const pair = (text: string, before: Pairs = {}): Pairs => {
  const [, name = '', value = ''] = /^([A-Za-z_]\w*)=(.*)$/s.exec(text) ?? [];
  if (!name) throw new InvalidArgumentError('Use NAME=VALUE.');
  return { ...before, [name]: value };
};
const count = (text: string): number | null => {
  if (text === '') return null;
  if (!/^\d+$/.test(text)) throw new InvalidArgumentError('Use an integer, or "" for none.');
  return Number(text);
};

/** What `addLimitOptions` adds. Written down, because inferring it through a generic command takes the compiler gigabytes. */
export interface LimitOptions {
  command?: string;
  env?: Pairs;
  envCredential?: Pairs;
  cwd?: string;
  authority?: string;
  certificate?: string;
  proxy?: string;
  connectLimit?: string;
  callLimit?: string;
  silenceLimit?: string;
  idle?: string;
  concurrency?: number | null;
  perMinute?: number | null;
  watch?: 'hold' | 'flagged' | 'allow';
}

/** Options for what a program is, and for how much is asked of a server. */
export function addLimitOptions(command: CommandUnknownOpts): void {
  command
    .option('--command <line>', 'command line of the program')
    .option('--env <NAME=value>', 'environment variable of the program; repeatable', pair)
    .option('--env-credential <NAME=credential>', 'credential for an environment variable; repeatable', pair)
    .option('--cwd <path>', 'working directory of the program')
    .option('--authority <file>', 'additional trusted certificate authorities, in PEM; "" for none')
    .option('--certificate <credential>', 'client certificate; "" for none')
    .option('--proxy <proxy>', 'proxy for its connections; "" for none')
    .option('--connect-limit <duration>', 'connection timeout; "" for 10s')
    .option('--call-limit <duration>', 'call timeout; "" for 60s')
    .option('--silence-limit <duration>', 'call timeout without progress; "" for none')
    .option('--idle <duration>', 'idle time after which an unused program stops; "" for 10m')
    .option('--concurrency <number>', 'maximum number of concurrent calls; "" for no limit', count)
    .option('--per-minute <number>', 'maximum number of calls per minute; "" for no limit', count)
    .addOption(new Option('--watch <how>', 'policy for changes of its tools').choices(['hold', 'flagged', 'allow']));
}

const NAMES = {
  connectLimit: 'connect',
  callLimit: 'call',
  silenceLimit: 'silence',
  idle: 'idle',
  concurrency: 'at_once',
  perMinute: 'per_minute',
} as const satisfies Partial<Record<keyof LimitOptions, keyof ServerLimits>>;

/** Merges the limits of the options into the present ones, and sets the watch policy. */
export async function limitsOf(client: Client, name: string, options: LimitOptions) {
  const names = Object.entries(NAMES) as [keyof typeof NAMES, keyof ServerLimits][];
  const told = names.filter(([option]) => options[option] !== undefined);
  const { watch } = options;
  const before: Record<string, unknown> = told.length > 0 ? (await client.getServer({ name })).limits : {};
  for (const [option, limit] of told) {
    const value = options[option];
    if (value === '' || value === null) delete before[limit];
    else before[limit] = value;
  }
  return { ...(told.length > 0 && { limits: before as ServerLimits }), ...(watch && { watch }) };
}

/** Merges the options into the present program. */
export async function programOf(client: Client, name: string, options: LimitOptions): Promise<{ program?: Program }> {
  const { command, env, envCredential, cwd } = options;
  if (command === undefined && !env && !envCredential && cwd === undefined) return {};
  const { program } = await client.getServer({ name });
  const [first, ...args] = command === undefined ? [] : words(command);
  if (!program && first === undefined)
    throw usage(`${name} is not a program`, 'Set its command with --command, or change its address.');
  const sealed = Object.entries(envCredential ?? {}).map(([key, credential]) => [key, { credential }]);
  const { cwd: _, ...before } = program ?? { command: '', args: [], env: {} };
  const where = cwd ?? program?.cwd;
  return {
    program: {
      ...before,
      ...(first !== undefined && { command: first, args }),
      env: { ...before.env, ...env, ...Object.fromEntries(sealed) },
      ...(where && { cwd: where }),
    },
  };
}

/** Merges the options into the present network settings. */
export async function networkOf(
  client: Client,
  name: string,
  { authority, certificate, proxy }: { authority?: string; certificate?: string; proxy?: string },
): Promise<{ network?: ServerNetwork }> {
  if (authority === undefined && certificate === undefined && proxy === undefined) return {};
  const before = (await client.getServer({ name })).network;
  const ca = authority ? readFileSync(authority, 'utf8') : authority;
  const told = Object.entries({ ca, certificate, proxy }).filter(([, value]) => value !== undefined);
  const network = { ...before, ...Object.fromEntries(told) };
  return { network: Object.fromEntries(Object.entries(network).filter(([, value]) => value !== '')) };
}

import { readFileSync } from 'node:fs';
import type { Client, Program, ServerLimits, ServerNetwork } from '@pindro/contract';
import { type Command, InvalidArgumentError, Option } from 'commander';
import { parseArgsStringToArgv as words } from 'string-argv';
import { usage } from '../usage.js';

type Pairs = Record<string, string>;
const pair = (text: string, before: Pairs = {}): Pairs => {
  const [, name = '', value = ''] = /^([A-Za-z_]\w*)=(.*)$/s.exec(text) ?? [];
  if (!name) throw new InvalidArgumentError('Write it as NAME=VALUE.');
  return { ...before, [name]: value };
};
const count = (text: string): number | null => {
  if (text === '') return null;
  if (!/^\d+$/.test(text)) throw new InvalidArgumentError('Write an integer, or "" for none.');
  return Number(text);
};

/** Options for what a program is, and for how much is asked of a server. */
export function limitOptions(command: Command): Command {
  return command
    .option('--command <line>', 'the program that it is, as one would type it')
    .option('--env <NAME=value>', 'what the program finds in its environment; repeatable', pair)
    .option('--env-credential <NAME=credential>', 'a credential that it finds there; repeatable', pair)
    .option('--folder <path>', 'the folder the program works in')
    .option('--authority <file>', 'certificates that are trusted for it, in PEM; "" for the usual ones alone')
    .option('--certificate <credential>', 'a certificate with which we show who we are; "" for none')
    .option('--through <proxy>', 'a proxy through which it is reached; "" for none')
    .option('--connect-limit <duration>', 'how long it may take to answer for the first time; "" for 10s')
    .option('--call-limit <duration>', 'how long a call may take; "" for 60s')
    .option('--silence-limit <duration>', 'how long a call may go on without a word; "" for no limit')
    .option('--idle <duration>', 'when a program that nobody uses is stopped; "" for 10m')
    .option('--at-once <number>', 'how many calls may be under way; "" for any number', count)
    .option('--per-minute <number>', 'how many calls begin in a minute; "" for any number', count)
    .addOption(
      new Option('--watch <how>', 'what becomes of changes of its tools').choices(['hold', 'flagged', 'allow']),
    );
}

const NAMES: Record<string, keyof ServerLimits> = {
  connectLimit: 'connect',
  callLimit: 'call',
  silenceLimit: 'silence',
  idle: 'idle',
  atOnce: 'at_once',
  perMinute: 'per_minute',
};

/** The limits with what was told over those there were, and the watch. */
export async function limitsOf(client: Client, name: string, options: Record<string, unknown>) {
  const told = Object.entries(NAMES).filter(([option]) => options[option] !== undefined);
  const watch = options.watch as 'hold' | 'flagged' | 'allow' | undefined;
  const before: Record<string, unknown> = told.length > 0 ? (await client.getServer({ name })).limits : {};
  for (const [option, limit] of told) {
    const value = options[option];
    if (value === '' || value === null) delete before[limit];
    else before[limit] = value;
  }
  return { ...(told.length > 0 && { limits: before as ServerLimits }), ...(watch && { watch }) };
}

/** The program with what was told over what it was. */
export async function programOf(
  client: Client,
  name: string,
  options: Record<string, unknown>,
): Promise<{ program?: Program }> {
  const { command, env, envCredential, folder } = options as {
    command?: string;
    env?: Pairs;
    envCredential?: Pairs;
    folder?: string;
  };
  if (command === undefined && !env && !envCredential && folder === undefined) return {};
  const { program } = await client.getServer({ name });
  const [first, ...args] = command === undefined ? [] : words(command);
  if (!program && first === undefined)
    throw usage(`${name} is no program`, 'Say what is to be run with --command, or change its address.');
  const sealed = Object.entries(envCredential ?? {}).map(([key, credential]) => [key, { credential }]);
  const { cwd: _, ...before } = program ?? { command: '', args: [], env: {} };
  const where = folder ?? program?.cwd;
  return {
    program: {
      ...before,
      ...(first !== undefined && { command: first, args }),
      env: { ...before.env, ...env, ...Object.fromEntries(sealed) },
      ...(where && { cwd: where }),
    },
  };
}

/** The way to it with what was told over what it was. */
export async function networkOf(
  client: Client,
  name: string,
  { authority, certificate, through }: { authority?: string; certificate?: string; through?: string },
): Promise<{ network?: ServerNetwork }> {
  if (authority === undefined && certificate === undefined && through === undefined) return {};
  const before = (await client.getServer({ name })).network;
  const ca = authority ? readFileSync(authority, 'utf8') : authority;
  const told = Object.entries({ ca, certificate, proxy: through }).filter(([, value]) => value !== undefined);
  const network = { ...before, ...Object.fromEntries(told) };
  return { network: Object.fromEntries(Object.entries(network).filter(([, value]) => value !== '')) };
}

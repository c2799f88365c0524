import { parseArgsStringToArgv as words } from 'string-argv';
import { nameFrom } from '../text/naming.js';
import { base64, repairAddress } from './address.js';
import { repairHeader } from './headers.js';
import {
  type AddressConnection,
  type CommandConnection,
  type OutgoingValue,
  outgoingValue,
  type RecognizedServer,
} from './recognized-server.js';
import { isPlace, isSecretName, namedValue, secretFormat, secretReason } from './secrets.js';

type Repair = (sentence: string) => void;

/** Programs that only send a request: what they are given is an address. */
const REQUESTS = /^(?:curl|wget|http|https)$/;

/** A command line as one would type it, or null where it is none. */
export function readCommand(text: string, repair: Repair): RecognizedServer | null {
  const line = text
    .trim()
    .replace(/^\$\s+/, '')
    .replaceAll(/\\\r?\n\s*/g, ' ')
    .replaceAll(/[“”]/g, '"')
    .replaceAll(/[‘’]/g, "'")
    // A place for a value is one word, also where it is written as several.
    .replaceAll(/(?<=[\s=])<[^<>"'\n]{1,100}>/g, (place) => (/\s/.test(place) ? `"${place}"` : place));
  if (line === '' || /[\n\r]/.test(line)) return null;
  const parts = words(line);
  const env: OutgoingValue[] = [];
  while (/^[A-Za-z_]\w*=/.test(parts[0] ?? '')) {
    const [name = '', ...rest] = parts.shift()!.split('=');
    env.push(namedValue(name, rest.join('=')));
  }
  const [command, ...args] = parts;
  // The address of something else is no program.
  if (!command || !/^[\w@./\\:~+-]+$/.test(command) || /^[a-z][\w+.-]+:/i.test(command)) return null;
  if (REQUESTS.test(programOf(command))) return ofRequest(args, repair);
  if (!isCommand(command, args)) return null;
  return ofProgram({ command, args, env, cwd: null }, repair);
}

/** Whether it is a command rather than a sentence: it runs something, has a path or an option in it, or is one word. */
const isCommand = (command: string, args: readonly string[]) =>
  args.length === 0 ||
  RUNNERS.test(programOf(command)) ||
  [command, ...args].some((part) => /^-|[/\\]|\.\w/.test(part));

/** A program with its arguments, without secrets. */
export function ofProgram(
  { command, args, env, cwd }: { command: string; args: string[]; env: OutgoingValue[]; cwd: string | null },
  repair: Repair,
): RecognizedServer {
  const way: CommandConnection = { via: 'command', command, args: argumentsOf(args, repair), env, cwd };
  for (const one of env)
    if (one.secret && !one.missing)
      repair(`The value of ${one.name} is stored encrypted and passed to the program only.`);
  return { name: nameOf(command, args), title: '', way, repairs: [] };
}

/** Options whose value is a whole header. */
const HEADER_OPTION = /^(?:-H|--header)$/;
/** Options that are short for a key. */
const KEY_OPTION = /^-[kK]$/;

function argumentsOf(args: readonly string[], repair: Repair): OutgoingValue[] {
  const read: OutgoingValue[] = [];
  /** @param before prefix of the secret in the argument */
  const secret = (name: string, value: string, why: string, before?: string) => {
    const isMissing = isPlace(value);
    const more = { secret: true, missing: isMissing, why, ...(before !== undefined && { before }) };
    read.push(outgoingValue(name, isMissing ? '' : value, more));
    if (!isMissing) repair(`The value of ${name} is stored encrypted and passed to the program only.`);
  };
  for (let at = 0; at < args.length; at++) {
    const arg = args[at]!;
    const [, option = '', , value] = /^(--?[\w.-]+|[A-Za-z_][A-Za-z0-9_]*)(=(.*))?$/s.exec(arg) ?? [];
    const next = args[at + 1];
    const hasNext = next !== undefined && !next.startsWith('-');
    const attached = /^-H(?=.)(.*)$/s.exec(arg)?.[1];
    const header = attached ?? (HEADER_OPTION.test(option) ? (value ?? (hasNext ? next : undefined)) : undefined);
    if (header !== undefined) {
      const [name = ''] = header.split(':');
      const why = isSecretName(name)
        ? 'has a name that suggests a secret'
        : secretFormat(header.slice(name.length + 1));
      const isOwn = attached !== undefined || value !== undefined;
      if (!isOwn) {
        read.push(outgoingValue('', arg));
        at++;
      }
      const before = attached !== undefined ? '-H' : value !== undefined ? `${option}=` : '';
      if (why) secret(name.trim(), header, why, before);
      else read.push(outgoingValue('', before + header));
      continue;
    }
    if (value !== undefined && option !== '') {
      const why = secretReason(option, value);
      // What stands before the sign of equality is not secret; it is put in front again when the program is started.
      if (why && (option.startsWith('-') || isSecretName(option) || secretFormat(value)))
        secret(option, value, why, `${option}=`);
      else read.push(outgoingValue('', arg));
      continue;
    }
    const isNamed = option.startsWith('-') && (isSecretName(option) || KEY_OPTION.test(option));
    if (isNamed && hasNext) {
      read.push(outgoingValue('', arg));
      secret(
        option,
        next,
        KEY_OPTION.test(option) ? 'follows an option for secrets' : 'has a name that suggests a secret',
      );
      at++;
      continue;
    }
    const why = secretFormat(arg);
    if (why) secret(`argument ${at + 1}`, arg, why);
    else read.push(outgoingValue('', arg));
  }
  return read;
}

/** Options of a request that take a value and say nothing of how to reach a server. */
const LEFT_OUT_QUIETLY =
  /^(?:-X|--request|-d|--data(?:-\w+)?|-o|--output|-A|--user-agent|-m|--max-time|--connect-timeout)$/;
/** Options of a request whose value cannot be taken over. */
const LEFT_OUT =
  /^(?:-E|--cert|--key|--cacert|-x|--proxy|-U|--proxy-user|--pass|-F|--form|-T|--upload-file|-K|--config|--netrc-file)$/;

/** The address and headers of a request that somebody would send by hand. */
function ofRequest(args: readonly string[], repair: Repair): RecognizedServer | null {
  const headers: OutgoingValue[] = [];
  let found: { way: AddressConnection; name: string } | null = null;
  for (let at = 0; at < args.length; at++) {
    const arg = args[at]!;
    const [, option = '', attached] = /^(--[\w.-]+)(?:=(.*))?$/s.exec(arg) ?? /^(-\w)(.+)?$/s.exec(arg) ?? [];
    const take = () => attached ?? args[++at] ?? '';
    if (option === '-H' || option === '--header') {
      const [name = '', ...rest] = take().split(':');
      headers.push(repairHeader(name, rest.join(':'), repair));
    } else if (option === '-u' || option === '--user') {
      headers.push(
        outgoingValue('Authorization', `Basic ${base64(take())}`, { secret: true, why: 'contains a password' }),
      );
      repair('The user name and password (-u) are stored encrypted and sent as a header.');
    } else if (option === '--oauth2-bearer') headers.push(repairHeader('Authorization', `Bearer ${take()}`, repair));
    else if (option === '-b' || option === '--cookie') headers.push(repairHeader('Cookie', take(), repair));
    else if (LEFT_OUT_QUIETLY.test(option)) take();
    else if (LEFT_OUT.test(option)) {
      take();
      repair(`${option} was ignored: its value cannot be used from a request.`);
    } else if (option === '') found ??= repairAddress(arg, repair);
    else if (!QUIET_FLAG.test(arg)) repair(`${option} was ignored.`);
  }
  if (!found) return null;
  return {
    ...{ name: found.name, title: '', repairs: [] },
    way: { ...found.way, headers: [...found.way.headers, ...headers] },
  };
}
/** Flags that affect neither the destination of a request nor what is sent. */
const QUIET_FLAG =
  /^(?:-[sSfLivNkgG#]+|--(?:silent|show-error|fail|location|include|verbose|no-buffer|compressed|http[\d.]+|get|globoff))$/;

const programOf = (command: string) => (command.split(/[/\\]/).at(-1) ?? '').replace(/\.(?:exe|cmd|sh)$/i, '');
/** Programs that run what is named after them. */
const RUNNERS =
  /^(?:npx|node|bun|bunx|deno|pnpm|yarn|npm|uv|uvx|pipx|python[\d.]*|ruby|java|docker|podman|sh|bash|cmd|env|sudo)$/;
/** Whether a program is one that runs what is named after it. */
export const runsOthers = (command: string): boolean => RUNNERS.test(programOf(command));
const EMPTY = /^(?:run|exec|dlx|x|-\w+|--[\w-]+(?:=.*)?|@?latest|mcp|server|stdio)$/;

/** A name out of a command: of what is run rather than of what runs it. */
function nameOf(command: string, args: readonly string[]): string {
  const program = programOf(command);
  const candidates = RUNNERS.test(program) ? args.filter((arg) => !EMPTY.test(arg)) : [program];
  const [first = program] = candidates;
  const [last = ''] = (
    first
      .replace(/@[\d.^~a-z-]*$/i, '')
      .split(/[/\\]/)
      .at(-1) ?? ''
  ).split(':');
  const bare = last
    .replace(/\.(?:m?js|ts|py|rb|jar|sh|exe)$/i, '')
    .replaceAll(/(?:^|[-_.])(?:mcp|server)(?=$|[-_.])/gi, '-');
  return nameFrom(bare) || nameFrom(last) || 'server';
}

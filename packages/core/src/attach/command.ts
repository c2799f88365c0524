import { parseArgsStringToArgv as words } from 'string-argv';
import { nameFrom } from '../naming.js';
import { mendAddress } from './address.js';
import { mendHeader } from './headers.js';
import { isPlace, isSecretName, namedValue } from './secrets.js';
import { type AddressWay, type CommandWay, type Going, going, type Understood } from './understood.js';

type Repair = (sentence: string) => void;

/** Programs that only send a request: what they are given is an address. */
const REQUESTS = /^(?:curl|wget|http|https)$/;

/** A command line as one would type it, or null where it is none. */
export function readCommand(text: string, repair: Repair): Understood | null {
  const line = text
    .trim()
    .replace(/^\$\s+/, '')
    .replaceAll(/\\\r?\n\s*/g, ' ')
    .replaceAll(/[“”]/g, '"')
    .replaceAll(/[‘’]/g, "'")
    // A place for a value is one word, also where it is written as several.
    .replaceAll(/(?<=[\s=])<[^<>"'\n]*\s[^<>"'\n]*>/g, (place) => `"${place}"`);
  if (line === '' || /[\n\r]/.test(line)) return null;
  const parts = words(line);
  const env: Going[] = [];
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

/** A program with its arguments. Keys among them are taken out. */
export function ofProgram(
  { command, args, env, cwd }: { command: string; args: string[]; env: Going[]; cwd: string | null },
  repair: Repair,
): Understood {
  const way: CommandWay = { via: 'command', command, args: argumentsOf(args, repair), env, cwd };
  for (const one of env)
    if (one.secret && !one.missing) repair(`The value of ${one.name} is kept sealed, and given to the program alone.`);
  return { name: nameOf(command, args), title: '', way, repairs: [] };
}

function argumentsOf(args: readonly string[], repair: Repair): Going[] {
  const read: Going[] = [];
  for (let at = 0; at < args.length; at++) {
    const arg = args[at]!;
    const [, option, , value] = /^(--?[\w.-]+|[A-Z][A-Z0-9_]*)(=(.*))?$/s.exec(arg) ?? [];
    const name = option?.replace(/^-+/, '');
    if (!name || !isSecretName(name)) {
      read.push(going('', arg));
      continue;
    }
    const isOption = option!.startsWith('-');
    const next = args[at + 1];
    if (value === undefined && (!isOption || next === undefined || next.startsWith('-'))) {
      read.push(going('', arg));
      continue;
    }
    const secret = value ?? next!;
    if (value === undefined) {
      read.push(going('', arg));
      at++;
    }
    const isMissing = isPlace(secret);
    // What stands before the sign of equality is not secret; it is put in front again when the program is started.
    const before = value === undefined ? {} : { before: `${option}=` };
    read.push(going(option!, isMissing ? '' : secret, { secret: true, missing: isMissing, ...before }));
    if (!isMissing) repair(`The value of ${option} is kept sealed, and given to the program alone.`);
  }
  return read;
}

/** The address and headers of a request that somebody would send by hand. */
function ofRequest(args: readonly string[], repair: Repair): Understood | null {
  const headers: Going[] = [];
  let found: { way: AddressWay; name: string } | null = null;
  for (let at = 0; at < args.length; at++) {
    const arg = args[at]!;
    const header = /^(?:-H|--header)(?:=(.*))?$/s.exec(arg);
    if (header) {
      const [name = '', ...rest] = (header[1] ?? args[++at] ?? '').split(':');
      headers.push(mendHeader(name, rest.join(':'), repair));
    } else if (/^(?:-X|--request|-d|--data(?:-\w+)?|-o|--output)$/.test(arg)) at++;
    else if (!arg.startsWith('-')) found ??= mendAddress(arg, repair);
  }
  if (!found) return null;
  return {
    ...{ name: found.name, title: '', repairs: [] },
    way: { ...found.way, headers: [...found.way.headers, ...headers] },
  };
}

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

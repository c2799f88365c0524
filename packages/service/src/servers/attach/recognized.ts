import { commandLine, type Program, type RecognizedServerSummary } from '@pindro/contract';
import {
  type AddressConnection,
  type CommandConnection,
  cutAt,
  type OutgoingValue,
  PindroError,
  type RecognizedServer,
  withQuery,
} from '@pindro/core';
import { type Runnable, runnable } from '../../policy/programs.js';
import type { Carried } from '../calling/secrets.js';
import type { Attaching } from './attacher.js';

/** A server that was understood, as it is shown: no secret of it. @param freeName gives it a name that is free */
export function presentRecognized(
  { name, title, way, repairs }: RecognizedServer,
  at: number,
  freeName: (wanted: string) => string,
  cannot: (program: Runnable) => string | null,
): RecognizedServerSummary {
  const isAddress = way.via === 'address';
  return {
    ...{ at, name: freeName(name), title, repairs },
    url: isAddress ? way.url : null,
    command: isAddress ? null : commandLine(programOf(way, namesOf(way))),
    speaks: isAddress ? way.transport : null,
    headers: isAddress ? way.headers.map(shown) : [],
    query: isAddress ? [...way.query, ...way.path].map(shown) : [],
    args: isAddress ? [] : way.args.filter(({ name }) => name !== '').map(shown),
    env: isAddress ? [] : way.env.map(shown),
    cannot: isAddress ? null : cannot(runnable(programOf(way, namesOf(way)))),
  };
}

const shown = ({ name, value, secret, missing, why }: OutgoingValue) => ({
  ...{ name, value: secret ? '' : value, secret, missing },
  why: why ?? null,
});

/** A program with names of credentials where its secrets go, in their order. */
function programOf({ command, args, env, cwd }: CommandConnection, names: readonly string[]): Program {
  const left = [...names];
  const value = ({ value, before, secret }: OutgoingValue) =>
    secret ? { credential: left.shift() ?? '…', ...(before !== undefined && { before }) } : `${before ?? ''}${value}`;
  return {
    ...{ command, args: args.map(value) },
    env: Object.fromEntries(env.map((one) => [one.name, value(one)])),
    ...(cwd !== null && { cwd }),
  };
}

const secretsOf = ({ args, env }: CommandConnection): OutgoingValue[] =>
  [...args, ...env].filter(({ secret }) => secret);
/** Placeholder for displayed secrets. */
const namesOf = (way: CommandConnection) => secretsOf(way).map(({ name }) => name.replace(/^-+/, '') || '…');

/** The same with the folder that a program works in, where the text does not say it. */
export const inFolder = (one: RecognizedServer, folder: string | undefined): RecognizedServer =>
  folder === undefined || one.way.via !== 'command' ? one : { ...one, way: { ...one.way, cwd: one.way.cwd ?? folder } };

/**
 * What is to be attached.
 * @param values what was missing, by name
 * @param secret a bearer key that takes the place of what the text says of it
 * @throws request_invalid where something is still missing
 */
export function attachingOf(
  { name, way }: RecognizedServer,
  values: Record<string, string>,
  secret?: string,
): Attaching {
  if (way.via === 'command') return attachingProgram(name, way, values);
  const headers = way.headers.map((one) => filled(one, values));
  const query = way.query.map((one) => filled(one, values));
  const carried = [
    ...headers.filter((one) => one.secret).map(ofHeader),
    ...query.filter((one) => one.secret).map(ofQuery),
    ...way.path.filter((one) => one.secret).map(ofPath),
  ];
  return {
    ...{ name, url: withPlain(way, query), rules: {} },
    ...(secret !== undefined && { secret }),
    ...(way.transport && { speaks: way.transport }),
    headers: Object.fromEntries(headers.filter((one) => !one.secret).map(({ name, value }) => [name, value])),
    carried: secret === undefined ? carried : carried.filter((one) => !authorizes(one)),
  };
}

function attachingProgram(name: string, given: CommandConnection, values: Record<string, string>): Attaching {
  const fill = (all: OutgoingValue[]) => all.map((one) => filled(one, values));
  const way = { ...given, args: fill(given.args), env: fill(given.env) };
  return {
    ...{ name, url: '', rules: {}, program: (names) => programOf(way, names) },
    carried: secretsOf(way).map(({ value: secret }) => ({ kind: 'environment', account: '', secret })),
  };
}

function filled(one: OutgoingValue, values: Record<string, string>): OutgoingValue {
  if (!one.missing) return one;
  const value = values[one.name];
  if (value === undefined)
    throw new PindroError(
      'request_invalid',
      { why: `A value for ${one.name} is missing` },
      { at: `/values/${one.name}` },
    );
  return { ...one, value, missing: false };
}

/** The address with what is no secret in it, and `{name}` in place of secrets of the path. */
const withPlain = ({ url, path }: AddressConnection, query: readonly OutgoingValue[]): string => {
  const whole = new URL(url);
  for (const { name, value, secret } of query)
    if (secret) whole.searchParams.delete(name);
    else if (!whole.searchParams.has(name)) whole.searchParams.set(name, value);
  const plain = Object.fromEntries(path.filter(({ secret }) => !secret).map(({ name, value }) => [name, value]));
  return withQuery(whole.href, { path: plain }).replaceAll(/%7B(\w+)%7D/gi, '{$1}');
};

/** Whether it is the one that a bearer key takes the place of. */
const authorizes = ({ kind, header }: Carried) =>
  kind === 'bearer' || kind === 'basic' || header?.toLowerCase() === 'authorization';

const ofPath = ({ name, value }: OutgoingValue): Carried => ({
  kind: 'path',
  header: name,
  account: '',
  secret: value,
});
const ofQuery = ({ name, value }: OutgoingValue): Carried => ({
  kind: 'query',
  header: name,
  account: '',
  secret: value,
});

/** A secret header as the kind of credential that it is. */
function ofHeader({ name, value }: OutgoingValue): Carried {
  if (name !== 'Authorization') return { kind: 'header', header: name, account: '', secret: value };
  const [scheme = '', rest = ''] = (cutAt(value, ' \t') ?? []).map((part) => part.trim());
  if (/^bearer$/i.test(scheme)) return { kind: 'bearer', account: '', secret: rest };
  const [, account, secret] = /^basic$/i.test(scheme) ? (/^([^:]*):(.*)$/s.exec(decoded(rest)) ?? []) : [];
  if (account !== undefined && secret !== undefined) return { kind: 'basic', account, secret };
  // A value alone, that was filled in: the word that belongs in front of it is known.
  return scheme === ''
    ? { kind: 'bearer', account: '', secret: value }
    : { kind: 'header', header: name, account: '', secret: value };
}

const decoded = (text: string): string => Buffer.from(text, 'base64').toString('utf8');

import type { UnderstoodServer } from '@pindro/contract';
import { type AddressWay, type CommandWay, type Going, PindroError, type Understood } from '@pindro/core';
import type { Carried } from './secrets.js';
import type { Attaching } from './store.js';

const PROGRAMS =
  'A program of this machine cannot be attached yet; start it as a server of its own, and give its address.';

/** A server that was understood, as it is shown: no secret of it. @param freeName gives it a name that is free */
export function presentUnderstood(
  { name, title, way, repairs }: Understood,
  at: number,
  freeName: (wanted: string) => string,
): UnderstoodServer {
  const isAddress = way.via === 'address';
  return {
    ...{ at, name: freeName(name), title, repairs },
    url: isAddress ? way.url : null,
    command: isAddress ? null : commandLine(way),
    speaks: isAddress ? way.transport : null,
    headers: isAddress ? way.headers.map(shown) : [],
    query: isAddress ? way.query.map(shown) : [],
    cannot: isAddress ? null : PROGRAMS,
  };
}

const shown = (one: Going): Going => ({ ...one, value: one.secret ? '' : one.value });

/** A command line without its secrets. */
const commandLine = ({ command, args }: CommandWay): string =>
  [command, ...args.map(({ name, value, secret }) => name + (secret ? '…' : quoted(value)))].join(' ');
const quoted = (text: string) => (/[\s"']/.test(text) || text === '' ? JSON.stringify(text) : text);

/**
 * What is to be attached.
 * @param values what was missing, by name
 * @param secret a bearer key that takes the place of what the text says of it
 * @throws request_invalid where something is still missing
 */
export function attachingOf({ name, way }: Understood, values: Record<string, string>, secret?: string): Attaching {
  if (way.via !== 'address') throw new PindroError('request_invalid', { why: PROGRAMS });
  const headers = way.headers.map((one) => filled(one, values));
  const query = way.query.map((one) => filled(one, values));
  const carried = [
    ...headers.filter((one) => one.secret).map(ofHeader),
    ...query.filter((one) => one.secret).map(ofQuery),
  ];
  return {
    ...{ name, url: withPlain(way, query), rules: {} },
    ...(secret !== undefined && { secret }),
    ...(way.transport && { speaks: way.transport }),
    headers: Object.fromEntries(headers.filter((one) => !one.secret).map(({ name, value }) => [name, value])),
    carried: secret === undefined ? carried : carried.filter((one) => !authorizes(one)),
  };
}

function filled(one: Going, values: Record<string, string>): Going {
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

const withPlain = ({ url }: AddressWay, query: readonly Going[]): string => {
  const whole = new URL(url);
  for (const { name, value, secret } of query) if (!secret) whole.searchParams.set(name, value);
  return whole.href;
};

/** Whether it is the one that a bearer key takes the place of. */
const authorizes = ({ kind, header }: Carried) =>
  kind === 'bearer' || kind === 'basic' || header?.toLowerCase() === 'authorization';

const ofQuery = ({ name, value }: Going): Carried => ({ kind: 'query', header: name, account: '', secret: value });

/** A secret header as the kind of credential that it is. */
function ofHeader({ name, value }: Going): Carried {
  if (name !== 'Authorization') return { kind: 'header', header: name, account: '', secret: value };
  const [, scheme = '', rest = ''] = /^(\S+)\s+(.*)$/s.exec(value) ?? [];
  if (/^bearer$/i.test(scheme)) return { kind: 'bearer', account: '', secret: rest };
  const [, account, secret] = /^basic$/i.test(scheme) ? (/^([^:]*):(.*)$/s.exec(decoded(rest)) ?? []) : [];
  if (account !== undefined && secret !== undefined) return { kind: 'basic', account, secret };
  // A value alone, that was filled in: the word that belongs in front of it is known.
  return scheme === ''
    ? { kind: 'bearer', account: '', secret: value }
    : { kind: 'header', header: name, account: '', secret: value };
}

const decoded = (text: string): string => Buffer.from(text, 'base64').toString('utf8');

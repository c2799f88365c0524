import type { TransportName } from './transports.js';

/** One value that is sent with a connection: a header, query parameter, argument or environment variable. */
export interface OutgoingValue {
  /** Its name; empty for a positional argument. */
  name: string;
  value: string;
  /** Prefix of the value of an argument, such as `--token=`. */
  before?: string;
  /** Whether it is stored encrypted as a credential. */
  secret: boolean;
  /** Why the value was detected as a secret, as in `has the name of a secret`. */
  why?: string;
  /** Whether only its place is known, and somebody has to fill it in. */
  missing: boolean;
}

/** A server at an address. */
export interface AddressConnection {
  via: 'address';
  url: string;
  /** How it speaks, where somebody said so; else it is found by trying. */
  transport: TransportName | null;
  headers: OutgoingValue[];
  query: OutgoingValue[];
  /** Parts of the path that are secrets; the address has `{name}` in their place. */
  path: OutgoingValue[];
}

/** A server that is a local program, connected through its standard input and output. */
export interface CommandConnection {
  via: 'command';
  command: string;
  args: OutgoingValue[];
  env: OutgoingValue[];
  /** The folder it works in. */
  cwd: string | null;
}

/** A tool server recognized in pasted text. */
export interface RecognizedServer {
  /** A name for it here. */
  name: string;
  title: string;
  way: AddressConnection | CommandConnection;
  /** Corrections, as sentences. */
  repairs: string[];
}

/** Overrides which recognized values are secret, by name. */
export interface SecretChoice {
  /** Not secrets, whatever they look like. */
  plain: readonly string[];
  /** Secrets, whatever they look like. */
  encrypt: readonly string[];
}

/**
 * Applies a person's choice of which recognized values are secret.
 * @param server as recognized
 * @param choice names of values that are sent as plain text, and of those that are encrypted
 * @returns a copy of the server
 */
export function chosenSecrets(server: RecognizedServer, { plain, encrypt }: SecretChoice): RecognizedServer {
  const choose = (one: OutgoingValue): OutgoingValue =>
    plain.includes(one.name) ? { ...one, secret: false } : encrypt.includes(one.name) ? { ...one, secret: true } : one;
  const { way } = server;
  if (way.via === 'command')
    return { ...server, way: { ...way, args: way.args.map(choose), env: way.env.map(choose) } };
  const [headers, query, path] = [way.headers, way.query, way.path].map((all) => all.map(choose)) as [
    OutgoingValue[],
    OutgoingValue[],
    OutgoingValue[],
  ];
  return { ...server, way: { ...way, headers, query, path } };
}

export const outgoingValue = (name: string, value: string, more: Partial<OutgoingValue> = {}): OutgoingValue => ({
  ...{ name, value, secret: false, missing: false },
  ...more,
});

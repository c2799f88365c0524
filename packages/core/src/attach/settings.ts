import { isObject, type Json, type JsonObject } from '../json/json.js';
import { nameFrom } from '../text/naming.js';
import { cutAt } from '../text/text-ends.js';
import { repairAddress } from './address.js';
import { ofProgram, runsOthers } from './command.js';
import { repairHeader } from './headers.js';
import type { RecognizedServer } from './recognized-server.js';
import { namedValue } from './secrets.js';
import { type TransportName, transportSaid } from './transports.js';

type Repair = (sentence: string) => void;
/** What clients call the address of a server in their settings. */
const ADDRESS_KEYS = ['url', 'serverUrl', 'httpUrl', 'endpoint', 'uri', 'address', 'baseUrl'];
const DEPTH = 6;

/** Servers out of a client's settings, wherever in them they stand: what has an address or a command is one. */
export function serversIn(settings: JsonObject): RecognizedServer[] {
  const found: RecognizedServer[] = [];
  const look = (value: Json, name: string, depth: number): void => {
    if (depth > DEPTH) return;
    if (Array.isArray(value)) for (const item of value) look(item, isObject(item) ? textOf(item.name) : '', depth + 1);
    if (!isObject(value)) return;
    const server = serverOf(name, value);
    if (server) found.push(server);
    else for (const [key, inner] of Object.entries(value)) look(inner, key, depth + 1);
  };
  look(settings, '', 0);
  return found;
}

function serverOf(name: string, entry: JsonObject): RecognizedServer | null {
  const repairs: string[] = [];
  const repair: Repair = (sentence) => void repairs.push(sentence);
  const address = ADDRESS_KEYS.map((key) => entry[key]).find((value) => typeof value === 'string');
  const server =
    typeof address === 'string' ? atAddress(address, entry, repair) : entry.command ? asProgram(entry, repair) : null;
  if (!server) return null;
  const called = nameFrom(name);
  if (called !== name && name !== '' && called !== '') repair(`Its name here is ${called}.`);
  return { ...server, name: called || server.name, title: textOf(entry.name ?? entry.title), repairs };
}

function atAddress(address: string, entry: JsonObject, repair: Repair): RecognizedServer | null {
  const mended = repairAddress(address, repair);
  if (!mended) return null;
  const headers = pairsOf(entry.headers ?? entry.requestInit).map(([key, value]) => repairHeader(key, value, repair));
  const way = { ...mended.way, transport: transportOf(entry), headers: [...mended.way.headers, ...headers] };
  return { name: mended.name, title: '', way, repairs: [] };
}

function asProgram(entry: JsonObject, repair: Repair): RecognizedServer | null {
  const listed = Array.isArray(entry.command) ? entry.command.map(String) : [String(entry.command)];
  const [command = '', ...first] = listed;
  // A whole command line where only the program belongs.
  const line = command.trim().split(/\s+/);
  const isLine = first.length === 0 && (entry.args === undefined || runsOthers(line[0]!));
  const parts = isLine ? line : [command];
  if (parts.length > 1) repair('The arguments were separated from the command.');
  const args = Array.isArray(entry.args) ? entry.args.map(String) : entry.args ? String(entry.args).split(/\s+/) : [];
  const env = pairsOf(entry.env ?? entry.environment).map(([key, value]) => namedValue(key, value));
  const cwd = textOf(entry.cwd ?? entry.workingDirectory) || null;
  return ofProgram({ command: parts[0]!, args: [...parts.slice(1), ...first, ...args], env, cwd }, repair);
}

/** Names and values, whether they stand as an object or as a list of pairs or lines. */
function pairsOf(value: Json | undefined): [string, string][] {
  if (isObject(value)) {
    if (isObject(value.headers)) return pairsOf(value.headers);
    return Object.entries(value).flatMap(([key, inner]): [string, string][] =>
      typeof inner === 'object' ? [] : [[key, String(inner)]],
    );
  }
  if (!Array.isArray(value)) return [];
  return value.flatMap((one): [string, string][] => {
    if (isObject(one)) return [[textOf(one.name ?? one.key), textOf(one.value)]];
    const [name = '', rest = ''] = cutAt(String(one), ':=') ?? [];
    return name ? [[name, rest.trimStart()]] : [];
  });
}

const transportOf = (entry: JsonObject): TransportName | null =>
  transportSaid(textOf(entry.type ?? entry.transport ?? entry.transportType));

const textOf = (value: Json | undefined): string => (typeof value === 'string' ? value : '');

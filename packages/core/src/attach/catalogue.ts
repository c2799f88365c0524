import { PindroError } from '../errors/errors.js';
import { isObject, type Json, type JsonObject } from '../json/json.js';
import { nameFrom } from '../text/naming.js';
import { repairAddress } from './address.js';
import { ofProgram } from './command.js';
import { repairHeader } from './headers.js';
import { readLoosely } from './loose-json.js';
import { type OutgoingValue, outgoingValue, type RecognizedServer } from './recognized-server.js';
import { isSecretName } from './secrets.js';
import { DEFAULT_TRANSPORT, transportSaid } from './transports.js';

/** An entry of a catalogue in the open registry's `server.json` format. */
export const isCatalogueEntry = (value: JsonObject): boolean =>
  typeof value.name === 'string' && (Array.isArray(value.remotes) || Array.isArray(value.packages));

/** Entries of a catalogue: one entry, a list of them, or `servers` with each below `server`. */
export function entriesOf(value: Json | null): JsonObject[] {
  if (Array.isArray(value)) return value.flatMap(entriesOf);
  if (!isObject(value)) return [];
  if (isCatalogueEntry(value)) return [value];
  if (isObject(value.server)) return entriesOf(value.server);
  return Array.isArray(value.servers) ? value.servers.flatMap(entriesOf) : [];
}

/** One search result in a server catalogue. */
export interface CatalogueHit {
  name: string;
  title: string;
  description: string;
  version: string;
  /** The entry alone, ready to attach. */
  text: string;
}

/**
 * Finds the servers of a catalogue whose names or descriptions contain all words.
 * @param text JSON of a server catalogue
 * @param words separated by spaces; all must occur
 * @returns servers with the text to attach each
 * @throws attach_unclear where it is none
 */
export function findInCatalogue(text: string, words: string): CatalogueHit[] {
  const value = readLoosely(text.trim().startsWith('[') ? `{"servers": ${text}}` : text, () => {});
  const entries = entriesOf(value);
  if (entries.length === 0)
    throw new PindroError('attach_unclear', { why: 'no entry in the catalogue has remotes or packages' });
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  return entries
    .map((entry) => ({
      name: String(entry.name),
      title: textOf(entry.title),
      description: textOf(entry.description),
      version: textOf(entry.version),
      text: JSON.stringify(entry),
    }))
    .filter(({ name, title, description }) => {
      const said = `${name} ${title} ${description}`.toLowerCase();
      return wanted.every((word) => said.includes(word));
    });
}
const textOf = (value: Json | undefined): string => (typeof value === 'string' ? value : '');

/** The ways to a server that its entry names, the remote ones first. */
export function serversOfEntry(entry: JsonObject): RecognizedServer[] {
  const name = nameFrom(String(entry.name).split('/').at(-1) ?? '') || 'server';
  const title = [entry.title, entry.description].find((text) => typeof text === 'string') ?? '';
  const remotes = listOf(entry.remotes).flatMap((one) => ofRemote(one));
  const packages = listOf(entry.packages).flatMap((one) => ofPackage(one));
  return [...remotes, ...packages].map((server) => ({ ...server, name, title: String(title) }));
}

function ofRemote(remote: JsonObject): RecognizedServer[] {
  const repairs: string[] = [];
  const repair = (sentence: string) => void repairs.push(sentence);
  const mended = repairAddress(String(remote.url ?? ''), repair);
  if (!mended) return [];
  const headers = listOf(remote.headers).map((one) => {
    const { name, value, missing } = inputOf(one);
    return missing ? outgoingValue(name, '', { secret: isSecret(one), missing }) : repairHeader(name, value, repair);
  });
  const transport = transportSaid(String(remote.type ?? '')) ?? DEFAULT_TRANSPORT;
  return [{ ...mended, title: '', way: { ...mended.way, transport, headers }, repairs }];
}

/** Programs that run a package of each registry. */
const RUNNERS: Record<string, (identifier: string, version: string) => string[]> = {
  npm: (identifier, version) => ['npx', '-y', version ? `${identifier}@${version}` : identifier],
  pypi: (identifier, version) => ['uvx', version ? `${identifier}==${version}` : identifier],
  oci: (identifier, version) => ['docker', 'run', '-i', '--rm', version ? `${identifier}:${version}` : identifier],
};

function ofPackage(given: JsonObject): RecognizedServer[] {
  const repairs: string[] = [];
  const repair = (sentence: string) => void repairs.push(sentence);
  const registry = String(given.registryType ?? given.registry_name ?? '');
  const runner = RUNNERS[registry]?.(String(given.identifier ?? given.name ?? ''), String(given.version ?? ''));
  if (!runner) return [];
  const args = [...listOf(given.runtimeArguments), ...listOf(given.packageArguments)].flatMap((one) => {
    const { name, value } = inputOf(one);
    return one.type === 'named' ? [name.startsWith('-') ? name : `--${name}`, value] : [value];
  });
  const env = listOf(given.environmentVariables).map((one): OutgoingValue => {
    const { name, value, missing } = inputOf(one);
    return outgoingValue(name, value, { secret: isSecret(one), missing });
  });
  const [command = '', ...first] = runner;
  return [{ ...ofProgram({ command, args: [...first, ...args.filter(Boolean)], env, cwd: null }, repair), repairs }];
}

/** A value that an entry asks for: given, with a default, or to be filled in. */
function inputOf(input: JsonObject): { name: string; value: string; missing: boolean } {
  const value = input.value ?? input.default;
  const text = typeof value === 'string' ? value : value === undefined ? '' : String(value);
  const isOpen = text === '' || /\{[^{}]*\}/.test(text);
  return { name: String(input.name ?? ''), value: isOpen ? '' : text, missing: isOpen };
}

const isSecret = (input: JsonObject): boolean => input.isSecret === true || isSecretName(String(input.name ?? ''));
const listOf = (value: Json | undefined): JsonObject[] => (Array.isArray(value) ? value.filter(isObject) : []);

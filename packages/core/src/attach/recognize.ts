import { PindroError } from '../errors/errors.js';
import { cutAt } from '../text/text-ends.js';
import { looksLikeAddress, repairAddress } from './address.js';
import { entriesOf, serversOfEntry } from './catalogue.js';
import { readCommand } from './command.js';
import { repairHeader } from './headers.js';
import { readLoosely } from './loose-json.js';
import type { RecognizedServer } from './recognized-server.js';
import { serversIn } from './settings.js';

/** Longer texts are no settings of a client, in characters. */
const LONGEST = 500_000;

/**
 * Recognizes tool servers in pasted text without connecting to them: an address, client settings as JSON, a command
 * line, or a catalogue entry.
 * @param given the pasted text
 * @returns at least one server, each with its corrections
 * @throws attach_unclear
 */
export function recognizeServers(given: string): RecognizedServer[] {
  if (given.length > LONGEST) throw unclear('the input is too long');
  const text = withoutFence(given.replace(/^\ufeff+/, '').trim()).trim();
  if (text === '') throw unclear('the input is empty');
  const repairs: string[] = [];
  const repair = (sentence: string) => void repairs.push(sentence);
  const found = looksLikeJson(text) ? ofJson(text, repair) : ofWords(text, repair);
  if (found.length === 0) throw unclear(whyNot(text));
  return found.map((server) => ({ ...server, repairs: [...new Set([...repairs, ...server.repairs])] }));
}

/** A text without the fence around it that a Markdown document has. */
function withoutFence(text: string): string {
  if (!text.startsWith('```') || !text.endsWith('```') || text.length < 7) return text;
  const end = text.indexOf('\n');
  return end > 0 && /^\w*$/.test(text.slice(3, end).trim()) ? text.slice(end + 1, -3) : text;
}

const looksLikeJson = (text: string) => /^[{[]/.test(text) || /^["'“”][^"'“”\n]*["'“”]\s*:\s*\{/.test(text);

function ofJson(text: string, repair: (sentence: string) => void): RecognizedServer[] {
  // A link of a document begins like a list.
  if (looksLikeAddress(text)) return ofWords(text, repair);
  const value = readLoosely(text.startsWith('[') ? `{"servers": ${text}}` : text, repair);
  if (!value) throw unclear('brackets, commas or quotes do not match');
  const entries = entriesOf(value);
  return entries.length > 0 ? entries.flatMap(serversOfEntry) : serversIn(value);
}

/** An address, with headers on lines of their own, or a command line. */
function ofWords(text: string, repair: (sentence: string) => void): RecognizedServer[] {
  const [first = '', ...others] = text
    .split(/\r?\n/)
    .map((line) => line.trim())
    .filter(Boolean);
  const headers = others.map((line) => {
    const [name = '', value = ''] = (cutAt(line, ':') ?? []).map((part) => part.trim());
    return /^[\w-]+$/.test(name) && value !== '' ? ([name, value] as const) : null;
  });
  if (looksLikeAddress(first) && headers.every(Boolean)) {
    const mended = repairAddress(first, repair);
    if (!mended) return [];
    const along = headers.map((header) => repairHeader(header![0], header![1], repair));
    const way = { ...mended.way, headers: [...mended.way.headers, ...along] };
    return [{ name: mended.name, title: '', way, repairs: [] }];
  }
  const command = readCommand(text, repair);
  return command ? [command] : [];
}

function whyNot(text: string): string {
  if (looksLikeJson(text)) return 'nothing in the input has an address or a command';
  return 'the input is neither an address, nor settings, nor a command';
}

const unclear = (why: string) => new PindroError('attach_unclear', { why });

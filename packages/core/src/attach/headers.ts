import { distance } from 'fastest-levenshtein';
import type { OutgoingValue } from './recognized-server.js';
import { isPlace, namedValue } from './secrets.js';

/** Header names as they are written usually; the case makes no difference to a server, a slip does. */
const KNOWN = ['Authorization', 'X-Api-Key', 'Api-Key', 'Cookie', 'User-Agent', 'Accept', 'Content-Type'];
const SCHEMES = ['Bearer', 'Basic', 'Digest', 'Negotiate', 'Token', 'ApiKey'];

/** Returns the corrected header. @param repair receives each correction as a sentence */
export function repairHeader(name: string, value: string, repair: (sentence: string) => void): OutgoingValue {
  const called = repairName(name.trim().replace(/:$/, ''), repair);
  const said = unquoted(value.trim());
  if (called !== 'Authorization') return namedValue(called, said);
  const mended = repairAuthorization(said, repair);
  const secret = mended.replace(/^\S+\s+/, '');
  return { ...namedValue(called, mended), secret: true, missing: isPlace(secret) };
}

function repairName(name: string, repair: (sentence: string) => void): string {
  const exact = KNOWN.find((known) => known.toLowerCase() === name.toLowerCase().replaceAll('_', '-'));
  if (exact && exact !== name) {
    repair(`The header "${name}" was corrected to ${exact}.`);
    return exact;
  }
  if (exact) return exact;
  const near = KNOWN.find((known) => known.length > 8 && distance(known.toLowerCase(), name.toLowerCase()) <= 2);
  if (!near) return name;
  repair(`The header "${name}" was corrected to ${near}.`);
  return near;
}

/** The value of `Authorization`, with the word in front that says what it is. */
function repairAuthorization(value: string, repair: (sentence: string) => void): string {
  const [first = '', ...rest] = value.split(/\s+/).filter(Boolean);
  const word = first.replace(/[:=]$/, '');
  const scheme = schemeOf(word);
  // A long word is the key itself, whatever it looks like.
  if (!scheme || (rest.length === 0 && word.length > 12)) {
    if (rest.length > 0) return value;
    repair('The scheme Bearer was missing in front of the key and has been added.');
    return `Bearer ${value}`;
  }
  if (rest.length === 0) return scheme;
  const again = rest.length > 1 && schemeOf(rest[0]!.replace(/[:=]$/, '')) === scheme;
  if (again) repair(`The scheme ${scheme} was repeated; one was removed.`);
  else if (word !== first) repair(`A space must follow ${scheme}, not "${first.slice(-1)}"; corrected.`);
  else if (word.toLowerCase() !== scheme.toLowerCase()) repair(`"${word}" was corrected to ${scheme}.`);
  else if (word !== scheme) repair(`"${word}" was corrected to ${scheme}.`);
  return `${scheme} ${(again ? rest.slice(1) : rest).join(' ')}`;
}

function schemeOf(word: string): string | undefined {
  return (
    SCHEMES.find((scheme) => scheme.toLowerCase() === word.toLowerCase()) ??
    SCHEMES.find(
      (scheme) => scheme.length > 5 && word.length > 3 && distance(scheme.toLowerCase(), word.toLowerCase()) <= 2,
    )
  );
}

const QUOTES = /^(["'`“”‘’«»])(.*)["'`“”‘’«»]$/s;
/** A text without the quotes around it. */
export const unquoted = (text: string): string => QUOTES.exec(text)?.[2]?.trim() ?? text;

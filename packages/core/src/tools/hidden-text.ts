import { base64ToBytes } from '../json/json.js';
import { withoutEnd } from '../text/text-ends.js';

/** Something in a text that a model reads and a person does not see, whatever language it is in. */
export interface HiddenText {
  /** What it is, as a sentence. */
  says: string;
  at: number;
  length: number;
  /** What it says, where it is written in another way. */
  decoded?: string;
}

/** Characters of no width, that turn the direction of writing, tags, private and control characters. */
const INVISIBLE =
  /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f\u00ad\u061c\u115f\u1160\u180e\u200b\u200e\u200f\u202a-\u202e\u2060-\u2064\u2066-\u206f\u3164\ufeff\uffa0\ufff9-\ufffb\p{Co}\u{e0000}-\u{e007f}]|\u034f|\u17b4|\u17b5|(?<!\p{Extended_Pictographic}\ufe0f?|\p{L})[\u200c\u200d]|[\ufe00-\ufe0e]{2,}|[\u{e0100}-\u{e01ef}]/u;

function invisibleIn(text: string): HiddenText[] {
  const found = INVISIBLE.exec(text);
  return found ? [{ says: 'The text contains invisible characters', at: found.index, length: found[0].length }] : [];
}

/** This many spaces or blank lines move what follows out of view. */
const BLANKS = /[ \t\u00a0\u2000-\u200a\u3000]{40,200}\S|(?:\r?\n[ \t]{0,20}){8,40}\S/u;

function gapIn(text: string): HiddenText[] {
  const found = BLANKS.exec(text);
  if (!found) return [];
  return [{ says: 'Large white space moves text out of view', at: found.index, length: found[0].length }];
}

const HIDING_STYLE =
  /(?:display\s{0,3}:\s{0,3}none|visibility\s{0,3}:\s{0,3}hidden|font-size\s{0,3}:\s{0,3}0|opacity\s{0,3}:\s{0,3}0[;"' ])/i;

/** Comments of HTML and Markdown, and styles that hide. */
function commentIn(text: string): HiddenText[] {
  const opened = text.indexOf('<!--');
  const at = opened >= 0 ? opened : text.search(/^\[[^\]\n]{0,80}\]:\s?#/m);
  if (at >= 0) {
    const end = opened >= 0 ? text.indexOf('-->', at) : text.indexOf('\n', at);
    const length = (end < 0 ? text.length : end) - at;
    // A word or two, as generators of pages leave them, tell nobody anything.
    const words = text.slice(at, at + length).match(/[\p{L}\p{N}]+/gu)?.length ?? 0;
    if (words >= 4) return [{ says: 'The text contains a comment that people do not see', at, length }];
  }
  const style = HIDING_STYLE.exec(text);
  return style
    ? [{ says: 'The text contains a style that hides text from people', at: style.index, length: style[0].length }]
    : [];
}

const LINK = /(!?)\[([^\]\n]{0,200})\]\(\s{0,3}([^)\s]{1,500})/g;
const SPOKEN_HOST = /(?:^|\s)(?:https?:\/\/)?((?:[\w-]{1,60}\.){1,6}[a-z]{2,20})/i;

/** Links whose target is another one than they show, runs something, or takes something along. */
function linkIn(text: string): HiddenText[] {
  for (const match of text.matchAll(LINK)) {
    const [whole, picture, shown = '', target = ''] = match;
    const found = (says: string) => [{ says, at: match.index, length: whole.length, decoded: target }];
    if (/^(?:javascript|data|vbscript|file):/i.test(target)) return found('A link points to code or a file');
    if (/[{$]\{?[\w. ]{1,40}\}|%7B/i.test(target)) return found('A link target carries data with it');
    if (picture) return found('An image is loaded from another address');
    const host = SPOKEN_HOST.exec(shown)?.[1]?.toLowerCase();
    if (host && !target.toLowerCase().includes(host)) return found('A link shows one address and leads to another');
  }
  return [];
}

const BASE64 = /(?<![\w+/=-])[A-Za-z0-9+/_-]{24,4000}={0,2}(?![\w+/=-])/g;
const HEX = /(?<![0-9a-f])(?:[0-9a-f]{2}[ :]?){20,2000}(?![0-9a-f])/gi;
const ESCAPES = /(?:\\u[0-9a-f]{4}|\\x[0-9a-f]{2}|%[0-9a-f]{2}|&#x?[0-9a-f]{2,6};){6,2000}/gi;

/** Whether bytes read as words: mostly letters and blanks, with several words among them. */
function readable(text: string): boolean {
  const letters = text.match(/[\p{L}\p{N} .,;:!?'"()/_-]/gu)?.length ?? 0;
  return text.length >= 12 && letters / text.length > 0.9 && /\p{L}{2}[\s_-]{1,3}\p{L}{2}/u.test(text);
}

function decodedFrom(text: string): string | null {
  const read = (make: () => string): string | null => {
    try {
      const decoded = make();
      return readable(decoded) ? decoded : null;
    } catch {
      return null;
    }
  };
  const utf8 = (bytes: Uint8Array) => new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  const plain = text.replaceAll('-', '+').replaceAll('_', '/');
  return read(() => utf8(base64ToBytes(plain + '='.repeat((4 - (plain.length % 4)) % 4))));
}

/** Words that are written in base64, in hex, or as escapes. */
function encodedIn(text: string): HiddenText[] {
  const says = 'The text contains encoded content that people do not read';
  for (const match of text.matchAll(BASE64)) {
    const decoded = decodedFrom(withoutEnd(match[0], '='));
    if (decoded !== null) return [{ says, at: match.index, length: match[0].length, decoded }];
  }
  for (const match of text.matchAll(HEX)) {
    const digits = match[0].replaceAll(/[^0-9a-f]/gi, '');
    const bytes = Uint8Array.from({ length: digits.length >> 1 }, (_, at) =>
      Number.parseInt(digits.slice(2 * at, 2 * at + 2), 16),
    );
    const decoded = new TextDecoder().decode(bytes);
    if (readable(decoded)) return [{ says, at: match.index, length: match[0].length, decoded }];
  }
  for (const match of text.matchAll(ESCAPES)) {
    const decoded = match[0].replaceAll(
      /(?:\\u|\\x|%|&#x)([0-9a-f]{2,6});?|&#([0-9]{2,6});/gi,
      (_, hex: string, dec: string) =>
        String.fromCodePoint(Math.min(0x10ffff, hex ? Number.parseInt(hex, 16) : Number(dec))),
    );
    return [{ says, at: match.index, length: match[0].length, decoded }];
  }
  return [];
}

/** Everything in a text that people do not see and a model reads. */
export const hiddenIn = (text: string): HiddenText[] => [
  ...invisibleIn(text),
  ...gapIn(text),
  ...commentIn(text),
  ...linkIn(text),
  ...encodedIn(text),
];

/** What a text says where parts of it are written in base64, in hex or as escapes; empty where none is. */
export const decodedIn = (text: string): string[] =>
  encodedIn(text).flatMap(({ decoded }) => (decoded ? [decoded] : []));

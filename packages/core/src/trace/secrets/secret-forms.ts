import { bytesToBase64 } from '../../json/json.js';

const bytesOf = (text: string) => new TextEncoder().encode(text);
const hexOf = (text: string) => [...bytesOf(text)].map((byte) => byte.toString(16).padStart(2, '0')).join('');
/** An address with the digits of its escapes in lower case; as long as it was. */
export const lowerEscapes = (text: string): string =>
  text.replaceAll(/%(?:25)*[0-9A-Fa-f]{2}/g, (one) => one.toLowerCase());

/** The part of a text's base64 form that does not depend on surrounding bytes, for each offset. */
function base64Behind(text: string, bytes: number): string {
  const own = bytesOf(text);
  const all = new Uint8Array(bytes + own.length);
  all.set(own, bytes);
  const first = Math.ceil((bytes * 8) / 6);
  const last = Math.floor((all.length * 8) / 6);
  return bytesToBase64(all).slice(first, last);
}

/** Shorter base64 says too little to be looked for inside of other base64. */
const SHORTEST_INNER = 7;
const base64Of = (text: string) => bytesToBase64(bytesOf(text));

const ENTITIES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
const entities = (text: string, apostrophe: string) =>
  text.replaceAll(/[&<>"']/g, (character) => ENTITIES[character] ?? apostrophe);
const numericEntities = (text: string, write: (code: number) => string) =>
  text.replaceAll(/[^\w ]/gu, (character) => write(character.codePointAt(0)!));

/**
 * Every form in which a secret may turn up: plain, as JSON, in addresses (once, twice, and as a form field), in HTML,
 * in hex, and in base64 at any offset, also behind a prefix such as a user's name.
 */
export function formsOf(secret: string): string[] {
  const encoded = encodeURIComponent(secret.replaceAll(/[\ud800-\udfff]/gu, '\ufffd'));
  const strict = encoded.replaceAll(/[!'()*]/g, (one) => `%${one.charCodeAt(0).toString(16).toUpperCase()}`);
  const address = [encoded, strict, strict.replaceAll('%20', '+')];
  const twice = address.map(encodeURIComponent);
  const json = JSON.stringify(secret).slice(1, -1);
  const ascii = json.replaceAll(/[^\x20-\x7e]/g, (one) => `\\u${one.charCodeAt(0).toString(16).padStart(4, '0')}`);
  const base64 = [0, 1, 2].map((bytes) => base64Behind(secret, bytes));
  // Each character as an escape of JSON or JavaScript, and base64 that was put into base64 once more.
  const escapes = [...secret.split('')].map((one) => one.charCodeAt(0).toString(16).padStart(4, '0'));
  const escaped = [escapes, escapes.map((one) => one.toUpperCase())].map((all) =>
    all.map((one) => `\\u${one}`).join(''),
  );
  const inner = [base64Of(secret), ...base64].filter((form) => form.length >= SHORTEST_INNER);
  const twiceBase64 = inner.flatMap((form) => [0, 1, 2].map((bytes) => base64Behind(form, bytes)));
  const hex = hexOf(secret);
  return [
    secret,
    json,
    ascii,
    json.replaceAll('/', '\\/'),
    JSON.stringify(json).slice(1, -1),
    ...address,
    ...twice,
    ...[...address, ...twice].map(lowerEscapes),
    entities(secret, '&#39;'),
    entities(secret, '&apos;'),
    numericEntities(secret, (code) => `&#${code};`),
    numericEntities(secret, (code) => `&#x${code.toString(16)};`),
    hex,
    hex.toUpperCase(),
    ...base64,
    ...base64.map((form) => form.replaceAll('+', '-').replaceAll('/', '_')),
    ...escaped,
    ...escaped.map((form) => form.replaceAll('\\', '\\\\')),
    ...twiceBase64,
  ];
}

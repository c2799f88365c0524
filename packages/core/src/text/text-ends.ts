/**
 * Removes characters from the end of a text in linear time, which a pattern such as `-+$` may exceed.
 * @param text to shorten
 * @param characters to remove
 * @returns the beginning of the text
 */
export function withoutEnd(text: string, characters: string): string {
  let end = text.length;
  while (end > 0 && characters.includes(text[end - 1]!)) end--;
  return text.slice(0, end);
}

/**
 * Splits a text at the first of some characters. Returns null if it has none of them.
 * @param text to cut
 * @param characters any of which ends the first part
 * @returns both parts without the character, or null
 */
export function cutAt(text: string, characters: string): [before: string, after: string] | null {
  for (let at = 0; at < text.length; at++)
    if (characters.includes(text[at]!)) return [text.slice(0, at), text.slice(at + 1)];
  return null;
}

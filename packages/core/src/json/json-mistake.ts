/**
 * Explains why a text is not JSON without quoting it: the messages of the platform quote the text around the error,
 * which may contain a secret.
 * @param error that `JSON.parse` threw
 * @returns `it is not valid JSON (line 2, column 14)`; without a place where the platform tells none
 */
export function jsonMistake(error: unknown): string {
  const message = error instanceof Error ? error.message : '';
  if (/end of JSON input|Unterminated/i.test(message)) return 'not valid JSON: unexpected end';
  // A place in digits is all that is taken over.
  const place = /\(line (\d{1,9}) column (\d{1,9})\)$/.exec(message);
  if (place) return `not valid JSON (line ${place[1]}, column ${place[2]})`;
  const position = /at position (\d{1,9})/.exec(message);
  return position ? `not valid JSON (character ${Number(position[1]) + 1})` : 'not valid JSON';
}

import { InvalidArgumentError } from 'commander';

/** An option written name=value, given as often as one likes; a value that is JSON is taken as such. */
export function collectValue(text: string, before: Record<string, unknown>): Record<string, unknown> {
  const [name, value] = cut(text);
  let read: unknown = value;
  try {
    read = JSON.parse(value);
  } catch {
    // not JSON, so it is a text
  }
  return { ...before, [name]: read };
}

/** The same with texts alone. */
export function collectText(text: string, before: Record<string, string>): Record<string, string> {
  const [name, value] = cut(text);
  return { ...before, [name]: value };
}

/** An option that may be given more than once. */
export const collectOne = (text: string, before: string[]): string[] => [...before, text];

function cut(text: string): [string, string] {
  const equals = text.indexOf('=');
  if (equals < 1) throw new InvalidArgumentError('Write it as name=value.');
  return [text.slice(0, equals), text.slice(equals + 1)];
}

import type { Program, ProgramValue } from './program.js';

const quoted = (text: string) => (/[\s"']/.test(text) || text === '' ? JSON.stringify(text) : text);

/**
 * A program as one would type it, with the names of credentials where their secrets go.
 * @param program to describe
 * @returns a command line as text
 */
export function commandLine({ command, args }: Pick<Program, 'command' | 'args'>): string {
  const shown = (value: ProgramValue) =>
    typeof value === 'string' ? quoted(value) : `${value.before ?? ''}<${value.credential}>`;
  return [quoted(command), ...args.map(shown)].join(' ');
}

/**
 * The credentials that a program is given.
 * @param program to look into
 * @returns names, without duplicates
 */
export const credentialsIn = ({ args, env }: Pick<Program, 'args' | 'env'>): string[] => [
  ...new Set(
    [...args, ...Object.values(env)].flatMap((value) => (typeof value === 'string' ? [] : [value.credential])),
  ),
];

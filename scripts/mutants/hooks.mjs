/* Puts mutants into the modules under test as they are loaded. */
import { readFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { mutate } from './mutate.mjs';

/** The number of the first mutant of each file. */
let firsts = {};
export const initialize = (data) => void (firsts = data);

export async function load(url, context, next) {
  const path = url.startsWith('file:') ? fileURLToPath(url.split('?')[0]) : '';
  if (firsts[path] === undefined) return next(url, context);
  const { code } = mutate(await readFile(path, 'utf8'), firsts[path]);
  return { format: 'module', shortCircuit: true, source: code };
}

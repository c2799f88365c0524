import { readFileSync, statSync } from 'node:fs';
import { PindroError } from '@pindro/core';

/** Where a secret is read whenever it is used: a variable of the service's environment, or a file on its machine. */
export type SecretSource = { environment: string } | { file: string };

/** A file with a secret in it is short. */
const LONGEST = 64 * 1024;
/** What the service itself keeps there. */
const OWN = /^PINDRO_/i;

/** @throws secret_missing where there is nothing to read */
export function readSource(name: string, source: SecretSource): string {
  const missing = (why: string, cause?: unknown) =>
    new PindroError(
      'secret_missing',
      { name, why },
      { details: { credential: name }, ...(cause !== undefined && { cause }) },
    );
  if ('environment' in source) {
    if (OWN.test(source.environment)) throw missing(`${source.environment} belongs to the service itself`);
    const value = process.env[source.environment];
    if (!value) throw missing(`the environment of the service has no ${source.environment}`);
    return value;
  }
  try {
    const found = statSync(source.file);
    // What is read without end, or waits for somebody, holds no secret.
    if (!found.isFile()) throw missing(`${source.file} is not a file`);
    if (found.size > LONGEST) throw missing(`${source.file} is too long for a secret`);
    return readFileSync(source.file, 'utf8').trim();
  } catch (error) {
    if (error instanceof PindroError) throw error;
    throw missing(`${source.file} cannot be read`, error);
  }
}

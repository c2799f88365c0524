import { MASK, type Masker } from '@pindro/core';
import { type Logger, pino } from 'pino';

export type { Logger };

/** The log, one JSON object a line on standard error. Headers and bodies are never given to it. */
export function createLog(level: string, masker: Masker): Logger {
  const out = pino.destination({ fd: 2, sync: true });
  return pino(
    { level, base: null, redact: { paths: ['*.authorization', '*.cookie', '*.secret'], censor: MASK } },
    // Whatever a line says, it says without a secret and without an access key.
    { write: (line: string) => void out.write(masker.text(line).replaceAll(ACCESS_KEY, MASK)) },
  );
}
const ACCESS_KEY = /pindro_[\w-]{43}/g;

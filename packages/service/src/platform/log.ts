import { type Logger, pino } from 'pino';

export type { Logger };

/** The log, one JSON object a line on standard error. Headers and bodies are never given to it. */
export function createLog(level: string): Logger {
  return pino(
    { level, base: null, redact: { paths: ['*.authorization', '*.cookie', '*.secret'], censor: '•••' } },
    pino.destination({ fd: 2, sync: true }),
  );
}

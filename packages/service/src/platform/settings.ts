import { randomBytes } from 'node:crypto';
import { z } from 'zod';
import type { TimeSource } from './clock.js';

/** How the service is set up. Parsed once at the start and frozen. */
export const settingsSchema = z.object({
  data: z.string().min(1).describe('Data directory'),
  backups: z.string().min(1).optional().describe('Directory for backups; "backups" in the data directory by default'),
  host: z.string().default('127.0.0.1').describe('Address to listen on'),
  port: z.number().int().min(0).max(65_535).default(7377).describe('Port to listen on; 0 chooses a free one'),
  openToAll: z
    .union([z.boolean(), z.stringbool()])
    .default(false)
    .describe('Lets open endpoints answer without a key even if other machines can reach them'),
  publicUrl: z.url().optional().describe('Public address of the service; used in every address it prints'),
  bodyLimit: z
    .number()
    .int()
    .min(1024)
    .default(4 * 1024 * 1024)
    .describe('Maximum body size in bytes; endpoints, webhooks and forms have lower limits of their own'),
  runsAtOnce: z
    .number()
    .int()
    .min(1)
    .max(10_000)
    .default(200)
    .describe('Maximum number of runs in progress; a run and all it calls count as one, and waiting runs do not count'),
  runsQueued: z
    .number()
    .int()
    .min(0)
    .max(100_000)
    .default(1000)
    .describe('Maximum number of queued runs; further ones are rejected'),
  keepDays: z.number().min(0).default(30).describe('Retention of successful runs, in days'),
  keepFailedDays: z.number().min(0).default(90).describe('Retention of failed or interrupted runs, in days'),
  keepBytes: z
    .number()
    .int()
    .min(16 * 1024 * 1024)
    .default(2 * 1024 * 1024 * 1024)
    .describe('Maximum size of recorded runs, in bytes; the oldest are deleted first'),
  trustedProxies: z
    .array(z.string())
    .default([])
    .describe('Addresses or networks of trusted proxies, whose forwarding headers are used'),
  reach: z
    .array(z.string())
    .default([])
    .describe('Private addresses, networks or host names that flows, tool servers and models may reach'),
  resolve: z
    .custom<(host: string) => Promise<string[]>>((value) => typeof value === 'function')
    .optional()
    .describe('Resolves host names instead of the system; for tests'),
  time: z
    .custom<TimeSource>((value) => typeof value === 'object' && value !== null)
    .optional()
    .describe('Supplies the time instead of the system; for tests'),
  programs: z
    .array(z.string())
    .optional()
    .describe(
      'Programs that may run as tool servers, or any, or none; by default, any if only this machine has access',
    ),
  refreshEvery: z
    .number()
    .int()
    .min(100)
    .default(10 * 60_000)
    .describe('How often tool servers are checked for changed tools, in milliseconds'),
  proxy: z.url().optional().describe('Proxy for connections of flows, tool servers and models'),
  secretKey: z
    .string()
    .optional()
    .describe('Key that encrypts credentials, 32 bytes in base64; a file in the data directory by default'),
  timeZone: z
    .string()
    .default(() => Intl.DateTimeFormat().resolvedOptions().timeZone)
    .describe('Time zone of clock.today'),
  smtp: z
    .url({ protocol: /^smtps?$/ })
    .optional()
    .describe('Mail server for mails of flows: smtp://HOST:PORT, with USER:PASSWORD@ if needed'),
  problemsTo: z
    .url({ protocol: /^(https?|mailto)$/ })
    .optional()
    .describe(
      'Recipient of notifications about new or recurring problems: mailto:ADDRESS, or the address of a webhook, which receives JSON',
    ),
  mailFrom: z.string().default('pindro@localhost').describe('Default sender of mails'),
  mailbox: z.url().optional().describe('Address of a mailbox stand-in to show in the console'),
  command: z
    .array(z.string())
    .default(['pindro'])
    .describe('Command line of this program on this machine, for settings of clients that start programs'),
  console: z.string().optional().describe('Directory with the built console'),
  logLevel: z.enum(['silent', 'error', 'warn', 'info', 'debug']).default('warn'),
});
export type Settings = Readonly<z.output<typeof settingsSchema>>;
export type SettingsInput = z.input<typeof settingsSchema>;

export const readSettings = (given: SettingsInput): Settings => Object.freeze(settingsSchema.parse(given));

/** Random text that is safe in addresses and headers, with 6 bits a character. */
export const randomText = (characters: number) =>
  randomBytes(Math.ceil((characters * 3) / 4))
    .toString('base64url')
    .slice(0, characters);

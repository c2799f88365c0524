import { randomBytes } from 'node:crypto';
import { z } from 'zod';
import type { TimeSource } from './clock.js';

/** How the service is set up. Parsed once at the start and frozen. */
export const settingsSchema = z.object({
  data: z.string().min(1).describe('Directory that holds everything'),
  backups: z.string().min(1).optional().describe('Directory for backups; "backups" in the data directory if left out'),
  host: z.string().default('127.0.0.1').describe('Address to listen on'),
  port: z.number().int().min(0).max(65_535).default(7377).describe('Port to listen on; 0 takes a free one'),
  openToAll: z
    .union([z.boolean(), z.stringbool()])
    .default(false)
    .describe('Lets open endpoints answer without a key even where other machines can reach them'),
  publicUrl: z
    .url()
    .optional()
    .describe('Address under which others reach the service; used in every address it prints'),
  bodyLimit: z
    .number()
    .int()
    .min(1024)
    .default(4 * 1024 * 1024)
    .describe('Largest body taken, in bytes; endpoints, hooks and forms have lower limits of their own'),
  runsAtOnce: z
    .number()
    .int()
    .min(1)
    .max(10_000)
    .default(200)
    .describe('How many runs may be under way; a run and all it calls count as one, and those that wait do not count'),
  runsQueued: z
    .number()
    .int()
    .min(0)
    .max(100_000)
    .default(1000)
    .describe('How many may wait for their turn; further ones are told to come back'),
  keepDays: z.number().min(0).default(30).describe('How many days runs are kept that went well'),
  keepFailedDays: z.number().min(0).default(90).describe('How many days runs are kept that failed or were cut'),
  keepBytes: z
    .number()
    .int()
    .min(16 * 1024 * 1024)
    .default(2 * 1024 * 1024 * 1024)
    .describe('How large the record of runs may grow, in bytes; the oldest make room'),
  trustedProxies: z
    .array(z.string())
    .default([])
    .describe('Addresses or networks of proxies whose word on where a request comes from is taken'),
  reach: z
    .array(z.string())
    .default([])
    .describe('Private addresses, networks or host names that flows, tool servers and models may reach'),
  resolve: z
    .custom<(host: string) => Promise<string[]>>((value) => typeof value === 'function')
    .optional()
    .describe('Resolves host names, where the system is not to be asked; for tests'),
  time: z
    .custom<TimeSource>((value) => typeof value === 'object' && value !== null)
    .optional()
    .describe('Where the time is read, where that is not the system; for tests'),
  programs: z
    .array(z.string())
    .optional()
    .describe(
      'Programs that may be run as tool servers, or any, or none; left out, any where only this machine has access',
    ),
  refreshEvery: z
    .number()
    .int()
    .min(100)
    .default(10 * 60_000)
    .describe('How often tool servers are asked whether their tools changed, in milliseconds'),
  proxy: z.url().optional().describe('Proxy through which flows, tool servers and models are reached'),
  secretKey: z
    .string()
    .optional()
    .describe('Key that seals credentials, 32 bytes in base64; a file in the data directory if left out'),
  timeZone: z
    .string()
    .default(() => Intl.DateTimeFormat().resolvedOptions().timeZone)
    .describe('Time zone of clock.today'),
  smtp: z
    .url({ protocol: /^smtps?$/ })
    .optional()
    .describe('Mail server that mails of flows are handed to: smtp://HOST:PORT, with USER:PASSWORD@ if need be'),
  problemsTo: z
    .url({ protocol: /^(https?|mailto)$/ })
    .optional()
    .describe(
      'Who is told of problems that are new or came back: mailto:ADDRESS, or the address of a hook, which gets JSON',
    ),
  mailFrom: z.string().default('pindro@localhost').describe('Sender of mails that name none'),
  mailbox: z.url().optional().describe('Address of a mailbox stand-in to show in the console'),
  command: z
    .array(z.string())
    .default(['pindro'])
    .describe('How the command line is called on this machine, for settings of clients that start programs'),
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

import { DURATION } from '@pindro/core/browser';
import { z } from 'zod';

const duration = z.string().regex(DURATION, 'must be a duration such as 10s');

/** How long a tool server may take, and how much is asked of it. What is left out is as it is for every server. */
export const serverLimits = z.strictObject({
  connect: duration.optional().describe('How long it may take to answer for the first time; 10s'),
  call: duration.optional().describe('How long a call may take; 60s, and longer while it says how far it is'),
  silence: duration.optional().describe('How long a call may go on without a word of how far it is'),
  at_once: z.number().int().min(1).max(1000).optional().describe('How many calls may be under way; others wait'),
  per_minute: z.number().int().min(1).max(100_000).optional().describe('How many calls begin in a minute; others wait'),
  idle: duration.optional().describe('When a program that nobody uses is stopped; 10m'),
});
export type ServerLimits = z.infer<typeof serverLimits>;
export const DEFAULT_LIMITS = { connect: '10s', call: '60s', idle: '10m' } as const satisfies ServerLimits;

/** The way to a server where the usual one does not do. */
export const serverNetwork = z.strictObject({
  ca: z
    .string()
    .max(200_000)
    .regex(/-----BEGIN CERTIFICATE-----/, 'must be certificates in PEM')
    .optional()
    .describe('Certificates of authorities that are trusted for it besides the usual ones, in PEM'),
  certificate: z.string().optional().describe('A credential of kind certificate, with which we show who we are'),
  proxy: z
    .url({ protocol: /^https?$/ })
    .optional()
    .describe('A proxy through which it is reached; that takes the role owner'),
});
export type ServerNetwork = z.infer<typeof serverNetwork>;
